import type { Clause, CriteriaStep, Definition, Edit, TableStep, UnionField, UnionStep } from '../src';
import {
  applyEdits,
  bindValues,
  checkedStep,
  checkTrail,
  compile,
  exchangedEdits,
  invertEdits,
  lineWithEdits,
  NOTHING_ARRIVES,
  postgresql,
  relationAfter,
  unionStep,
  withInputLinedUp,
  withoutInputEdits,
  withoutValues,
} from '../src';
import { harvests, told, trailOf } from './support/apiaries';

/** Rows on top of one another: how fields are lined up, what stands where an input has none, and which rows stand once. */

const nothing = bindValues([], {}, 0n);
/** The same harvests as another step, with its own ids. */
const again = (...taken: readonly string[]): TableStep => ({
  ...harvests,
  id: 'r',
  called: { row: 'late harvest', rows: 'late harvests' },
  fields: harvests.fields.map((each) => ({ ...each, id: `r-${each.id}` })),
  taken: taken.map((each) => `r-${each}`),
  keys: [['r-id']],
});
const field = (id: string, from: UnionField['from'], more: Partial<UnionField> = {}): UnionField => ({
  id,
  name: id,
  from,
  as: null,
  ...more,
});
const union = (given: Partial<UnionStep>): UnionStep => ({
  id: 'n',
  kind: 'union',
  name: '',
  off: false,
  inputs: ['h', 'r'],
  once: false,
  fields: [],
  source: null,
  ...given,
});
const ALL = ['id', 'region', 'flower', 'picked', 'kilos', 'honey'];
const stacked = (given: Partial<UnionStep>, table: TableStep = again(...ALL)): Definition => trailOf(table, union(given));
const problemsOf = (definition: Definition) => checkTrail(definition).problems.map(({ code, place }) => [code, place.step, place.field]);
const grainOf = (definition: Definition) => checkedStep(checkTrail(definition), 'n')?.grain;

describe('what an input lacks', () => {
  const fields = (fill?: UnionField['fill']) => [field('no', ['id', 'r-id']), field('weight', ['kilos', null], fill ? { fill } : {})];

  test('is null', () => {
    expect(told(stacked({ fields: fields() }), nothing, 'no', 'weight').slice(4, 7)).toEqual(['5 null', '1 null', '2 null']);
  });

  test('is the value typed there, as the field’s type reads it', () => {
    expect(told(stacked({ fields: fields([null, '1.5']) }), nothing, 'no', 'weight').slice(4, 7)).toEqual(['5 null', '1 1.50', '2 1.50']);
  });

  test('is not asked of an input that has the field, whatever was typed there before', () => {
    expect(told(stacked({ fields: fields(['7', '1.5']) }), nothing, 'weight').slice(3, 6)).toEqual(['5.50', 'null', '1.50']);
  });

  test('must be a value of the field’s type, told at the field', () => {
    expect(problemsOf(stacked({ fields: fields([null, 'much']) }))).toEqual([['value-wrong-type', 'n', 'weight']]);
  });

  test('is bound, never written into the statement, and no value of a definition without its values', () => {
    const typed = "x'); drop";
    const given = stacked({ fields: [field('no', ['id', 'r-id']), field('where', ['region', null], { fill: [null, typed] })] });
    const statement = (of: Definition) => compile(relationAfter(checkTrail(of), 'n', nothing), postgresql('numbered'), nothing);
    expect([statement(given).text.includes(typed), statement(given).values.some((each) => each.value === typed)]).toEqual([false, true]);
    expect(JSON.stringify(withoutValues(given))).not.toContain('drop');
  });
});

describe('lining up', () => {
  const linedUp = (left: TableStep, right: TableStep) => {
    const trail = checkTrail({ ...trailOf(), steps: [left, right], result: 'h' });
    let count = 0;
    const arriving = ['h', 'r'].map((id) => checkedStep(trail, id) ?? NOTHING_ARRIVES);
    return unionStep(() => `f${count++}`, ['h', 'r'], arriving).fields.map(({ name, from }) => [name, ...from]);
  };
  const renamed = (table: TableStep, names: Readonly<Record<string, string>>): TableStep => ({
    ...table,
    fields: table.fields.map((each) => ({ ...each, column: names[each.column] ?? each.column })),
  });

  test('goes by name, whatever its case, and type; what one has alone stands behind the others', () => {
    const right = renamed(again('id', 'kilos', 'flower'), { kilos: 'KILOS', flower: 'picked' });
    expect(linedUp({ ...harvests, taken: ['picked', 'kilos', 'id'] }, right)).toEqual([
      ['picked', 'picked', null],
      ['kilos', 'kilos', 'r-kilos'],
      ['id', 'id', 'r-id'],
      ['picked_2', null, 'r-flower'],
    ]);
  });

  const byHand = stacked(
    {
      fields: [
        field('day', ['picked', null]),
        field('weight', ['kilos', 'r-kilos']),
        field('other', [null, 'r-picked'], { fill: ['2025-01-01', null] }),
      ],
    },
    again('kilos', 'picked'),
  );
  const unionOf = ({ steps }: Definition) => steps.find((each): each is UnionStep => each.kind === 'union') ?? union({});
  const linesOf = (definition: Definition) => unionOf(definition).fields.map(({ id, from }) => [id, ...from]);
  const sameAfterUndo = (edits: readonly Edit[]) => {
    const after = applyEdits(byHand, edits);
    expect(applyEdits(after, invertEdits(edits))).toEqual(byHand);
    return after;
  };

  test('by hand exchanges what two fields are in an input; one that is none then goes', () => {
    expect(linesOf(sameAfterUndo(exchangedEdits(byHand, unionOf(byHand), 1, 'other', 'day')))).toEqual([
      ['day', 'picked', 'r-picked'],
      ['weight', 'kilos', 'r-kilos'],
    ]);
    expect(linesOf(sameAfterUndo(exchangedEdits(byHand, unionOf(byHand), 0, 'day', 'weight')))).toEqual([
      ['day', 'kilos', null],
      ['weight', 'picked', 'r-kilos'],
      ['other', null, 'r-picked'],
    ]);
    expect(exchangedEdits(byHand, unionOf(byHand), 0, 'day', 'gone')).toEqual([]);
  });

  test('a field chosen for another line leaves the line it stood in alone, and no line it shares', () => {
    const chosen = (to: string, id: string | null) => linesOf(sameAfterUndo(lineWithEdits(byHand, unionOf(byHand), 1, to, id)));
    expect(chosen('day', 'r-picked')).toEqual([
      ['day', 'picked', 'r-picked'],
      ['weight', 'kilos', 'r-kilos'],
    ]);
    expect(chosen('day', 'r-kilos')).toEqual([
      ['day', 'picked', 'r-kilos'],
      ['weight', 'kilos', 'r-kilos'],
      ['other', null, 'r-picked'],
    ]);
    expect(chosen('weight', null)).toEqual([
      ['day', 'picked', null],
      ['weight', 'kilos', null],
      ['other', null, 'r-picked'],
    ]);
  });

  test('a line that steps behind ask for stays, and says that it is none of any input', () => {
    const asks: Clause = { id: 'x', kind: 'condition', off: false, field: 'other', operator: 'is null', operands: [], andNulls: false };
    const behind: CriteriaStep = { id: 'c', kind: 'criteria', name: '', off: false, inputs: ['n'], head: 'every one', clauses: [asks] };
    const used: Definition = { ...byHand, steps: [...byHand.steps, behind], result: 'c' };
    const after = applyEdits(used, exchangedEdits(used, unionOf(used), 1, 'other', 'day'));
    expect(linesOf(after).at(-1)).toEqual(['other', null, null]);
    expect(problemsOf(after)).toContainEqual(['field-empty', 'n', 'other']);
  });

  test('one more input stands beside what is called alike, and can be taken out again', () => {
    let count = 0;
    const arriving = checkedStep(checkTrail(byHand), 'r') ?? NOTHING_ARRIVES;
    const { fields } = unionOf(byHand);
    const more = withInputLinedUp(
      () => `f${count++}`,
      fields.map((each) => ({ ...each, name: each.id === 'weight' ? 'KILOS' : each.name })),
      2,
      arriving,
    );
    expect(more.map(({ name, from }) => [name, ...from])).toEqual([
      ['day', 'picked', null, null],
      ['KILOS', 'kilos', 'r-kilos', 'r-kilos'],
      ['other', null, 'r-picked', null],
      ['picked', null, null, 'r-picked'],
    ]);
    const three: Definition = {
      ...byHand,
      steps: byHand.steps.map((each) =>
        each.kind === 'union'
          ? { ...each, inputs: ['h', 'r', 'r'], fields: more, source: { id: 's', name: 'from', words: ['a', 'b', 'c'] } }
          : each,
      ),
    };
    const left = unionOf(applyEdits(three, withoutInputEdits(three, unionOf(three), 1)));
    expect([left.inputs, left.source?.words]).toEqual([
      ['h', 'r'],
      ['a', 'c'],
    ]);
    expect(left.fields.map(({ name, from }) => [name, ...from])).toEqual([
      ['day', 'picked', null],
      ['KILOS', 'kilos', 'r-kilos'],
      ['picked', null, 'r-picked'],
    ]);
  });
});

describe('types', () => {
  test('of numbers with different digits become the one that holds them all', () => {
    const made = checkedStep(checkTrail(stacked({ fields: [field('n', ['id', 'r-kilos'])] })), 'n')?.schema.fields[0]?.type;
    expect(made).toEqual({ kind: 'decimal', precision: 21, scale: 2 });
  });

  test('that have none in common stop the step, and none is taken by itself', () => {
    expect(problemsOf(stacked({ fields: [field('no', ['id', 'r-id']), field('mixed', ['kilos', 'r-flower'])] }))).toEqual([
      ['union-types', 'n', 'mixed'],
    ]);
  });

  test('are converted where one was taken: what cannot be is null, and told as a value lost', () => {
    const mixed = stacked({ fields: [field('mixed', ['kilos', 'r-flower'], { as: { kind: 'decimal', precision: 8, scale: 2 } })] });
    expect(told(mixed, nothing, 'mixed').slice(2, 7)).toEqual(['20.00', '5.50', 'null', 'null', 'null']);
    const texts = stacked({ fields: [field('mixed', ['kilos', 'r-flower'], { as: { kind: 'text' } })] });
    expect(told(texts, nothing, 'mixed').slice(2, 7)).toEqual(['20.00', '5.50', 'null', 'lime', 'heather']);
  });
});

describe('repeated rows once', () => {
  test('nulls are alike, and so are numbers however many digits they are written with', () => {
    const fields = [field('n', ['kilos', 'r-kilos']), field('where', ['region', 'r-region'])];
    const once = told(stacked({ once: true, fields }), nothing, 'n', 'where');
    expect(once.toSorted()).toEqual(['10.00 Fennick', '20.00 Orrin Vale', '5.50 Fennick', '5.50 Orrin Vale', 'null null']);
  });

  test('where a row came from keeps rows of different inputs apart', () => {
    const source = { id: 'from', name: 'came from', words: ['early', 'late'] };
    const once = told(stacked({ once: true, fields: [field('where', ['region', 'r-region'])], source }), nothing, 'where', 'came from');
    expect(once).toHaveLength(6);
  });
});

describe('one row', () => {
  const fields = [field('no', ['id', 'r-id']), field('where', ['region', 'r-region'])];
  const source = (...words: readonly string[]) => ({ id: 'from', name: 'came from', words });

  test('is told apart by a key of both and where it came from', () => {
    expect(grainOf(stacked({ fields, source: source('early', 'late') }))).toEqual({
      row: 'harvest or late harvest',
      rows: 'harvests or late harvests',
      keys: [['from', 'no']],
    });
  });

  test.each([
    ['it is not said where rows came from', { fields }],
    ['two inputs are called the same', { fields, source: source('early', 'early') }],
    ['the key of one is not lined up', { fields: [field('no', ['id', null]), fields[1] as UnionField], source: source('early', 'late') }],
  ])('is told apart by nothing where %s', (_when, given) => {
    expect(grainOf(stacked(given))?.keys).toEqual([]);
  });
});

test('many inputs are told by their number, few by their rows', () => {
  const stackOf = (inputs: number) => {
    const tables = Array.from({ length: inputs }, (_each, at) => ({
      ...again(...ALL),
      id: `t${at}`,
      called: { row: `harvest ${at}`, rows: `harvests ${at}` },
    }));
    const steps = [
      ...tables,
      union({
        inputs: tables.map((each) => each.id),
        fields: [
          field(
            'no',
            tables.map(() => 'r-id'),
          ),
        ],
      }),
    ];
    return checkedStep(checkTrail({ ...stacked({}), steps }), 'n');
  };
  expect(stackOf(2)?.title).toBe('harvests 0 and harvests 1 on top of one another');
  expect(stackOf(5)?.title).toBe('5 inputs on top of one another');
  expect(stackOf(5)?.grain.row).toBe('row of any input');
});

describe('a ledger that does not hold', () => {
  test.each<readonly [string, Partial<UnionStep>, string]>([
    ['no field at all', { fields: [] }, 'union-empty'],
    ['a field of no input', { fields: [field('x', [null, null]), field('no', ['id', 'r-id'])] }, 'field-empty'],
    ['a field without a name', { fields: [field('x', ['id', 'r-id'], { name: ' ' })] }, 'name-missing'],
    ['two fields of one name', { fields: [field('x', ['id', 'r-id']), field('y', ['id', 'r-id'], { name: 'x' })] }, 'name-taken'],
    ['a field that does not arrive', { fields: [field('x', ['id', 'r-gone'])] }, 'field-gone'],
    ['inputs with nothing in common', { fields: [field('x', ['id', null]), field('y', [null, 'r-id'])] }, 'union-apart'],
    [
      'the name of where rows came from given twice',
      { fields: [field('x', ['id', 'r-id'])], source: { id: 'from', name: 'x', words: ['a', 'b'] } },
      'name-taken',
    ],
  ])('%s', (_what, given, code) => {
    expect(problemsOf(stacked(given)).map(([found]) => found)).toContain(code);
  });
});
