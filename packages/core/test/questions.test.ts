import fc from 'fast-check';
import type { Clause, Definition, Head, Parameter, Question, Step, Value } from '../src';
import {
  beginQuestion,
  bindValues,
  checkTrail,
  clauseLines,
  decimal,
  emptyDefinition,
  GROUPED_CLAUSES,
  HEADS,
  ofWhole,
  readValue,
  smallestHitting,
  text,
  TRIED_CLAUSES,
  whole,
} from '../src';
import { ending } from './support/harvests';
import { answerIn } from './support/relations';

const columns = { id: whole, kilos: decimal(8, 2), grade: text, region: text };
const table: Step = {
  id: 't',
  kind: 'table',
  name: '',
  off: false,
  inputs: [],
  source: 's',
  schema: 'coop',
  table: 'harvests',
  taken: ['id', 'kilos'],
  keys: [['id']],
  fields: Object.entries(columns).map(([id, type]) => ({
    id,
    column: id,
    sourceType: 'x',
    type,
    role: id === 'id' ? 'key' : 'attribute',
    looseText: false,
  })),
};
type Wire = readonly [kilos: string | null, grade: string | null, region: string | null];
const rowsOf = (rows: readonly Wire[]) =>
  rows.map(([kilos, grade, region], index): ReadonlyMap<string, Value> => {
    const number = kilos === null ? undefined : readValue(columns.kilos, kilos);
    return new Map<string, Value>([
      ['id', ofWhole(BigInt(index + 1))],
      ['kilos', number?.ok ? number.value : null],
      ['grade', grade],
      ['region', region],
    ]);
  });

function datasetOf(head: Head, clauses: readonly Clause[], parameters: readonly Parameter[] = []): Definition {
  const criteria: Step = { id: 'c', kind: 'criteria', name: '', off: false, inputs: ['t'], head, clauses };
  return ending({ ...emptyDefinition('Harvests'), steps: [table, criteria], parameters });
}

function asked<Q extends Question>(definition: Definition, question: Q, rows: readonly Wire[], given: Record<string, string[]> = {}) {
  const binding = bindValues(definition.parameters, given, 0n);
  const trail = checkTrail(definition);
  return answerIn(beginQuestion<Q>({ trail, binding, others: new Map() }, question), rowsOf(rows), binding);
}

let minted = 0;
const written = (source: string, off = false): Clause => ({
  id: `w${++minted}`,
  kind: 'expression',
  off,
  expression: { text: source, refs: [] },
});
const group = (head: Head, ...clauses: Clause[]): Clause => ({ id: `g${++minted}`, kind: 'group', off: false, head, clauses });

const leaf = fc
  .constantFrom('kilos >= 5', 'kilos < 8', "grade = 'A'", "grade <> 'B'", "region in ('x', 'y')", 'grade is null', 'kilos between 2 and 6')
  .map((source) => written(source));
const clause = fc.oneof(
  { weight: 4, arbitrary: leaf },
  fc
    .record({ head: fc.constantFrom(...HEADS), clauses: fc.array(leaf, { minLength: 1, maxLength: 3 }) })
    .map((each) => group(each.head, ...each.clauses)),
);
const wire: fc.Arbitrary<Wire> = fc.tuple(
  fc.constantFrom(null, '1', '3', '5', '7', '9'),
  fc.constantFrom(null, 'A', 'B', ''),
  fc.constantFrom(null, 'x', 'y', 'z'),
);

describe('clause counts', () => {
  const sample: readonly Wire[] = [
    ['5', 'A', 'x'],
    ['9', 'B', 'x'],
    ['3', 'A', 'y'],
    [null, 'A', 'y'],
    ['9', null, 'z'],
  ];

  test('under “every one” tell alone, left, gives back and null', () => {
    const clauses = [written('kilos >= 5'), written("grade = 'A'")];
    const { answer, asked: times } = asked(datasetOf('every one', clauses), { kind: 'clauses', step: 'c' }, sample);
    expect(times).toBe(1);
    expect(answer).toEqual({
      rows: '5',
      left: '1',
      clauses: [
        { clause: clauses[0]?.id, alone: '3', nulls: '1', left: '3', givesBack: '2' },
        { clause: clauses[1]?.id, alone: '3', nulls: '1', left: '1', givesBack: '2' },
      ],
    });
  });

  test('under “at least one” tell alone, only this one and null', () => {
    const clauses = [written('kilos >= 5'), written("grade = 'A'")];
    const { answer } = asked(datasetOf('at least one', clauses), { kind: 'clauses', step: 'c' }, sample);
    expect(answer.clauses.map(({ alone, onlyThis, nulls }) => [alone, onlyThis, nulls])).toEqual([
      ['3', '2', '1'],
      ['3', '2', '1'],
    ]);
    expect(answer.left).toBe('5');
  });

  test('leave out what is switched off and what asks nothing', () => {
    const clauses = [written('kilos >= 5'), written('kilos < 0', true), written('')];
    const { answer } = asked(datasetOf('every one', clauses), { kind: 'clauses', step: 'c' }, sample);
    expect(answer.clauses.map((each) => each.clause)).toEqual([clauses[0]?.id]);
  });

  /** Enough clauses more that the other way of counting is taken; they keep every row. */
  const padding = Array.from({ length: GROUPED_CLAUSES + 1 }, () => written('kilos >= 0 or kilos is null'));

  test('are the same counted by groups and in one pass of sums, each clause alone agreeing with its own criteria', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('every one' as const, 'none' as const),
        fc.array(clause, { minLength: 1, maxLength: 4 }),
        fc.array(wire, { maxLength: 12 }),
        (head, clauses, rows) => {
          const own = new Set(clauseLines(head, clauses).map((each) => each.clause.id));
          const count = (all: readonly Clause[]) => asked(datasetOf(head, all), { kind: 'clauses', step: 'c' }, rows).answer;
          const few = count(clauses);
          const neutral =
            head === 'none'
              ? padding.map((each) => ({ ...each, expression: { text: 'kilos < 0 and kilos > 0', refs: [] } }) as Clause)
              : padding;
          const many = count([...clauses, ...neutral]);
          expect([many.rows, many.left]).toEqual([few.rows, few.left]);
          for (const each of few.clauses) expect(many.clauses.find(({ clause: id }) => id === each.clause)).toEqual(each);
          expect(few.clauses.every((each) => own.has(each.clause))).toBe(true);
          for (const [index, each] of clauses.entries()) {
            const counted = few.clauses.find(({ clause: id }) => id === each.id);
            expect(counted?.alone).toBe(count([each]).left);
            expect(counted?.left).toBe(count(clauses.slice(0, index + 1)).left);
            expect(Number(counted?.givesBack)).toBe(Number(count(clauses.toSpliced(index, 1)).left) - Number(few.left));
          }
        },
      ),
      { numRuns: 150 },
    );
  });

  test('of a hundred clauses come from one statement of one row', () => {
    const clauses = Array.from({ length: 100 }, (_, index) => written(`kilos >= ${index % 7} or grade = '${index}'`));
    const { answer, asked: times } = asked(datasetOf('every one', clauses), { kind: 'clauses', step: 'c' }, [...sample, ['9', 'A', 'x']]);
    expect(times).toBe(1);
    expect(answer.clauses).toHaveLength(100);
  });
});

describe('where nothing is left', () => {
  const passing = (clauses: readonly Clause[], rows: readonly Wire[]) =>
    Number(asked(datasetOf('every one', clauses), { kind: 'clauses', step: 'c' }, rows).answer.left);

  test('the smallest set of clauses that exclude each other is named, with a row for each', () => {
    const clauses = [written('kilos >= 5'), written("grade = 'A'"), written("grade = 'B'"), written('kilos < 9')];
    const { answer } = asked(datasetOf('every one', clauses), { kind: 'clauses', step: 'c' }, [
      ['5', 'A', 'x'],
      ['6', 'B', 'y'],
    ]);
    expect(answer.excluding).toMatchObject({ clauses: [clauses[1]?.id, clauses[2]?.id], smallest: true });
    expect(answer.excluding?.examples.map((each) => each.values)).toEqual([
      [
        { name: 'id', value: '2' },
        { name: 'grade', value: 'B' },
      ],
      [
        { name: 'id', value: '1' },
        { name: 'grade', value: 'A' },
      ],
    ]);
  });

  test('no set is named where rows are left, or where none arrived', () => {
    const none = asked(datasetOf('every one', [written('kilos < 0')]), { kind: 'clauses', step: 'c' }, []);
    expect(none.answer.excluding).toBeUndefined();
    const some = asked(datasetOf('every one', [written('kilos > 0')]), { kind: 'clauses', step: 'c' }, [['1', null, null]]);
    expect(some.answer.excluding).toBeUndefined();
  });

  test('of any clauses, none can be left out of the set named, and its examples show why', () => {
    let named = 0;
    fc.assert(
      fc.property(
        fc.array(clause, { minLength: 1, maxLength: 5 }),
        fc.array(wire, { minLength: 1, maxLength: 8 }),
        fc.constantFrom(0, TRIED_CLAUSES),
        (own, rows, extra) => {
          const clauses = [...own, ...Array.from({ length: extra }, () => written('kilos >= 0 or kilos is null'))];
          const { answer } = asked(datasetOf('every one', clauses), { kind: 'clauses', step: 'c' }, rows);
          const { excluding } = answer;
          if (!excluding) {
            expect(answer.left).not.toBe('0');
            return;
          }
          named++;
          const set = clauses.filter((each) => excluding.clauses.includes(each.id));
          expect(excluding.smallest).toBe(clauses.length <= TRIED_CLAUSES);
          expect(passing(set, rows)).toBe(0);
          for (const each of set)
            expect(
              passing(
                set.filter((other) => other !== each),
                rows,
              ),
            ).toBeGreaterThan(0);
          expect(excluding.examples.map((each) => each.clause)).toEqual(set.map((each) => each.id));
        },
      ),
      { numRuns: 150 },
    );
    expect(named).toBeGreaterThan(20);
  });

  test('a smallest set meets every failure, and there is none where one row fails nothing', () => {
    expect(smallestHitting(3, [0b011, 0b110])).toBe(0b010);
    expect(smallestHitting(3, [0b001, 0b100])).toBe(0b101);
    expect(smallestHitting(3, [0b001, 0])).toBeUndefined();
  });
});

describe('values', () => {
  const regions: readonly Wire[] = [
    ['1', 'A', 'Fennick'],
    ['2', 'A', 'Fennick'],
    ['3', 'A', 'Saltmarsh'],
    ['4', 'A', 'Upper Tarn'],
    ['5', 'A', null],
    ['6', 'A', "O'Sedge 100%"],
  ];
  const plain = datasetOf('every one', []);
  const values = (search: string) => asked(plain, { kind: 'values', step: 'c', field: 'region', search }, regions).answer;

  test('are offered with their counts, most rows first, and found by a part of any case', () => {
    expect(values('').values.map(({ value, rows }) => [value, rows])[0]).toEqual(['Fennick', '2']);
    expect(values('').values.map((each) => each.value)).not.toContain('');
    expect(values('SALT').values.map((each) => each.value)).toEqual(['Saltmarsh']);
    expect(values("'sedge 100%").values.map((each) => each.value)).toEqual(["O'Sedge 100%"]);
    expect(values('nowhere').values).toEqual([]);
  });

  test('that occur nowhere are told with the nearest that do', () => {
    const { answer } = asked(plain, { kind: 'known', step: 'c', field: 'region', values: ['Fennick', 'Fenick', 'saltmarsh '] }, regions);
    expect(answer.found.map((each) => [each.value, each.rows])).toEqual([['Fennick', '2']]);
    expect(answer.missing.map((each) => [each.value, each.nearest[0]?.value])).toEqual([
      ['Fenick', 'Fennick'],
      ['saltmarsh ', 'Saltmarsh'],
    ]);
  });

  test('of numbers are nearest on both sides, and are one number however they are written', () => {
    const { answer } = asked(plain, { kind: 'known', step: 'c', field: 'kilos', values: ['3.00', '3.5'] }, regions);
    expect(answer.found.map((each) => each.value)).toEqual(['3.00']);
    expect(answer.missing[0]?.nearest.map((each) => each.value)).toEqual(['3.00', '4.00']);
    const between = asked(plain, { kind: 'known', step: 'c', field: 'kilos', values: ['3.005'] }, regions).answer;
    expect(between.missing[0]?.nearest.map((each) => each.value)).toEqual(['3.00', '4.00']);
  });

  test('of a wrong type are refused with what is expected', () => {
    expect(() => asked(plain, { kind: 'known', step: 'c', field: 'kilos', values: ['many'] }, regions)).toThrow(
      '“many” is no value for kilos.',
    );
  });
});

describe('choices', () => {
  const parameter = (given: Partial<Parameter> & { id: string }): Parameter => ({
    name: given.id,
    type: 'text',
    takes: 'several',
    leftBlank: 'condition is off',
    startsAs: [],
    hint: '',
    ...given,
  });
  const parameters = [
    parameter({ id: 'region' }),
    parameter({
      id: 'grade',
      choices: {
        from: 'field',
        field: 'grade',
        label: 'region',
        sorted: 'by value',
        narrowedBy: [{ parameter: 'region', field: 'region' }],
      },
    }),
  ];
  const rows: readonly Wire[] = [
    ['1', 'A', 'x'],
    ['2', 'B', 'y'],
    ['3', 'A', 'x'],
  ];
  const offered = (given: Record<string, string[]>, search = '') =>
    asked(datasetOf('every one', [], parameters), { kind: 'choices', parameter: 'grade', search }, rows, given).answer.values;

  test('come with labels, and are narrowed by the other parameter unless it is blank', () => {
    expect(offered({}).map(({ value, label, rows: count }) => [value, label, count])).toEqual([
      ['A', 'x', '2'],
      ['B', 'y', '1'],
    ]);
    expect(offered({ region: ['y'] }).map((each) => each.value)).toEqual(['B']);
    expect(offered({ region: [] }, 'X').map((each) => each.value)).toEqual(['A']);
  });

  test('that are no longer valid after their parent changed are told', () => {
    const { answer } = asked(datasetOf('every one', [], parameters), { kind: 'known choices', parameter: 'grade', values: ['A'] }, rows, {
      region: ['y'],
    });
    expect(answer.missing.map((each) => each.value)).toEqual(['A']);
  });

  test('of a field that is gone are refused', () => {
    const gone = [parameter({ id: 'g', choices: { from: 'field', field: 'nowhere', label: null, sorted: 'by value', narrowedBy: [] } })];
    expect(() => asked(datasetOf('every one', [], gone), { kind: 'choices', parameter: 'g', search: '' }, rows)).toThrow(
      'not there any more',
    );
  });
});

describe('a followed row', () => {
  const clauses = [written('kilos >= 5'), written("grade = 'A'")];
  const rows: readonly Wire[] = [
    ['4.2', 'B', 'x'],
    ['9', 'A', 'x'],
  ];
  const follow = (id: string | null) =>
    asked(datasetOf('every one', clauses), { kind: 'follow', step: 'c', identity: [{ field: 'id', value: id }] }, rows).answer;

  test('tells the clauses that dropped it, with its values', () => {
    const followed = follow('1');
    expect(followed.source.rows).toEqual([['1', '4.20', 'B', 'x']]);
    expect(followed.steps.map(({ step, present }) => [step, present])).toEqual([
      ['t', 1],
      ['c', 0],
    ]);
    expect(followed.steps[1]?.dropped[0]).toEqual({
      clauses: [
        { id: clauses[0]?.id, number: '1', words: 'kilos >= 5' },
        { id: clauses[1]?.id, number: '2', words: "grade = 'A'" },
      ],
      values: [
        { name: 'kilos', value: '4.20' },
        { name: 'grade', value: 'B' },
      ],
    });
  });

  test('tells a row that is present, and one that was never there', () => {
    expect(follow('2').steps.map((each) => each.present)).toEqual([1, 1]);
    expect(follow('3').steps.map((each) => each.present)).toEqual([0, 0]);
    expect(follow(null).steps.map((each) => each.present)).toEqual([0, 0]);
  });
});
