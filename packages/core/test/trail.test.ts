import fc from 'fast-check';
import type { Binding, Catalogue, Clause, Condition, Definition, Edit, FieldType, Head, Parameter, Step, TableRows, Value } from '../src';
import {
  addItem,
  addParameter,
  addStepAfter,
  applyEdits,
  bindValues,
  blankCondition,
  checkTrail,
  criteriaStep,
  datasetName,
  datasetSentence,
  decimal,
  editSentence,
  evaluateTrail,
  outputColumns,
  invertEdits,
  parameterFor,
  ProblemError,
  readDefinition,
  removeStepEdit,
  sentenceText,
  text,
  whole,
  withoutValues,
} from '../src';
import { bind, criteria, definition, ending, minKilos, table } from './support/harvests';

describe('what a dataset is called', () => {
  const unnamed: Definition = { ...definition, title: '' };

  test('is its title, or else its rows and the fields that decide which are kept, never a value', () => {
    expect(datasetName(definition)).toBe('Harvests');
    expect(datasetName({ ...unnamed, steps: [table], result: 't' })).toBe('Harvests');
    expect(datasetName(unnamed)).toBe('Harvests by kilos');
    const more = ending({ ...unnamed, steps: [...unnamed.steps, criteria('d', 'c', "grade = 'A' or id = 7 or kilos > 9")] });
    expect(datasetName(more)).toBe('Harvests by kilos, grade and id');
    expect(datasetName({ ...more, steps: more.steps.map((each) => ({ ...each, off: each.id === 'c' })) })).toBe(
      'Harvests by grade, id and kilos',
    );
    expect(datasetName({ ...unnamed, steps: [], result: null })).toBe('Nothing yet');
  });
});

describe('a definition', () => {
  test('is read back as it was written', () => {
    expect(readDefinition(JSON.parse(JSON.stringify(definition)))).toEqual({ definition });
  });

  test.each([
    ['no object', [], 'definition-broken', ''],
    ['no version', {}, 'definition-broken', '/version'],
    ['a newer version', { ...definition, version: 99 }, 'definition-newer', '/version'],
    ['an unknown kind of step', { ...definition, steps: [{ kind: 'magic' }] }, 'definition-broken', '/steps/0'],
    ['a step before its input', ending({ ...definition, steps: [...definition.steps].reverse() }), 'definition-broken', '/steps/0/inputs'],
    [
      'two parameters of one name',
      { ...definition, parameters: [minKilos, { ...minKilos, id: 'q' }] },
      'parameter-name-taken',
      '/parameters',
    ],
  ])('with %s is told with a pointer', (_, document, code, pointer) => {
    const read = readDefinition(document);
    expect('problems' in read && read.problems[0]).toMatchObject({ code, place: { pointer } });
  });

  test('without values shows its shape and nothing typed into it', () => {
    expect(JSON.stringify(withoutValues(definition))).not.toContain('kilos >= ');
    expect(withoutValues(definition).steps).toHaveLength(2);
  });
});

const edits: readonly (readonly [Edit, string])[] = [
  [{ kind: 'set title', from: 'Harvests', to: 'Yields' }, 'renamed the dataset to Yields'],
  [addStepAfter(definition, 't', criteria('n', 't', "grade = 'A'")), "added criteria: grade = 'A'"],
  [removeStepEdit(definition, 'c') as Edit, 'removed criteria: kilos >= :min_kilos'],
  [
    { kind: 'set step', step: 't', property: 'taken', from: ['id', 'kilos'], to: ['id', 'grade'] },
    'took 1 field of harvests and left out 1 field',
  ],
  [{ kind: 'set step', step: 'c', property: 'off', from: false, to: true }, 'disabled kilos >= :min_kilos'],
  [{ kind: 'set step', step: 'c', property: 'name', from: '', to: 'worth it' }, 'named kilos >= :min_kilos worth it'],
  [
    addItem(
      definition.steps[1] as Step,
      'clauses',
      { ...blankCondition(() => 'new'), field: 'kilos', operator: 'below', operands: [{ kind: 'value', text: '9' }] } as Condition,
      1,
    ),
    'added the clause kilos below 9',
  ],
  [
    { kind: 'set parameter', parameter: 'p', property: 'leftBlank', from: 'condition is off', to: 'must be filled' },
    'changed what blank means of :min_kilos',
  ],
  [{ kind: 'rename parameter', parameter: 'p', from: 'min_kilos', to: 'least' }, 'renamed :min_kilos to :least'],
  [addParameter(definition, { ...minKilos, id: 'q', name: 'most' }), 'added the parameter :most'],
];

describe('an edit', () => {
  test.each(edits)('%j says what it did, and its inverse takes it back exactly', (edit, sentence) => {
    expect(editSentence(edit, definition)).toBe(sentence);
    const after = applyEdits(definition, [edit]);
    expect(after).not.toEqual(definition);
    expect(applyEdits(after, invertEdits([edit]))).toEqual(definition);
  });

  test('refuses to overwrite what it does not expect', () => {
    const moved = applyEdits(definition, [{ kind: 'set title', from: 'Harvests', to: 'Theirs' }]);
    const mine = () => applyEdits(moved, [{ kind: 'set title', from: 'Harvests', to: 'Mine' }]);
    expect(mine).toThrow(ProblemError);
    expect(() => applyEdits(definition, [{ kind: 'set step', step: 'gone', property: 'off', from: false, to: true }])).toThrow(
      'removed meanwhile',
    );
  });

  test('in any order that applies, all inverses lead back to the beginning', () => {
    fc.assert(
      fc.property(fc.shuffledSubarray(edits.map(([edit]) => edit)), (chosen) => {
        let current = definition;
        const applied: Edit[] = [];
        for (const edit of chosen) {
          try {
            current = applyEdits(current, [edit]);
            applied.push(edit);
          } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
          }
        }
        expect(applyEdits(current, invertEdits(applied))).toEqual(definition);
      }),
    );
  });

  test('renaming a parameter rewrites the expressions that mention it', () => {
    const linked = applyEdits(definition, [
      {
        kind: 'set step',
        step: 'c',
        property: 'clauses',
        from: (definition.steps[1] as { clauses: unknown }).clauses,
        to: [
          {
            id: 'c-1',
            kind: 'expression',
            off: false,
            expression: { text: 'kilos >= :min_kilos', refs: [{ kind: 'parameter', id: 'p', from: 9, to: 19 }] },
          },
        ],
      },
    ]);
    const renamed = applyEdits(linked, [{ kind: 'rename parameter', parameter: 'p', from: 'min_kilos', to: 'least' }]);
    expect(checkTrail(renamed).steps[1]?.title).toBe('kilos >= :least');
    expect(checkTrail(renamed).problems).toEqual([]);
  });
});

const TYPES: Record<string, FieldType> = { integer: whole, 'numeric(8,2)': decimal(8, 2) };

describe('a checked trail', () => {
  test('hands on taken fields and offers the others for use only', () => {
    const trail = checkTrail(definition);
    expect(outputColumns(trail, 'c').map((each) => each.name)).toEqual(['id', 'kilos']);
    expect(trail.steps[1]?.schema.fields.find((each) => each.name === 'grade')?.forUseOnly).toBe(true);
  });

  test('marks a column that is gone or retyped, and what stands behind it, and still opens', () => {
    const known = (columns: readonly (readonly [string, string])[]) =>
      checkTrail(definition, (() => ({
        columns: columns.map(([name, sourceType]) => ({
          name,
          sourceType,
          type: TYPES[sourceType] ?? text,
          nullable: false,
          looseText: false,
        })),
        keys: [],
        relations: [],
      })) as unknown as Catalogue);
    expect(
      known([
        ['id', 'integer'],
        ['kilos', 'text'],
        ['grade', 'text'],
      ]).problems,
    ).toMatchObject([{ code: 'column-retyped', place: { step: 't', field: 'kilos' } }]);
    const gone = known([
      ['id', 'integer'],
      ['grade', 'text'],
    ]);
    expect(gone.problems[0]).toMatchObject({ code: 'column-gone', severity: 'error' });
    expect(gone.steps.map((each) => each.blocked)).toEqual([true, true]);
    expect(checkTrail(definition, () => 'gone').problems[0]?.code).toBe('table-gone');
    expect(
      known([
        ['id', 'integer'],
        ['kilos', 'numeric(8,2)'],
      ]).steps[0]?.blocked,
    ).toBe(false);
  });

  test('finds a parameter nobody uses', () => {
    const unused = ending({ ...definition, steps: [table] });
    expect(checkTrail(unused).problems).toMatchObject([{ code: 'parameter-unused', severity: 'warning' }]);
  });

  const asked: Clause = {
    id: 'asked',
    kind: 'condition',
    off: false,
    field: 'kilos',
    operator: 'at least',
    operands: [{ kind: 'parameter', id: 'p' }],
    andNulls: false,
  };

  test('says itself as a sentence', () => {
    const slots = applyEdits(definition, [
      {
        kind: 'set step',
        step: 'c',
        property: 'clauses',
        from: (definition.steps[1] as { clauses: unknown }).clauses,
        to: [asked],
      },
    ]);
    const sentence = (given: Record<string, string[]>) => sentenceText(datasetSentence(checkTrail(slots), given));
    expect(sentence({})).toBe('Harvests where kilos at least 5');
    expect(sentence({ p: [] })).toBe('Harvests where kilos at least anything');
  });

  test('names the conditions that no parameter stands in with their values, whatever the step is called', () => {
    const clause = (id: string, source: string, off = false) => ({
      id,
      kind: 'expression' as const,
      off,
      expression: { text: source, refs: [] },
    });
    const asking = (...clauses: readonly ReturnType<typeof clause>[]) =>
      sentenceText(
        datasetSentence(
          checkTrail(
            ending({
              ...definition,
              steps: [table, { ...(definition.steps[1] as Step & { kind: 'criteria' }), name: 'good ones', clauses }],
            }),
          ),
          {},
        ),
      );
    expect(asking(clause('a', "grade = 'A'"), clause('b', 'kilos >= :min_kilos'))).toBe("Harvests where grade = 'A' and :min_kilos is 5");
    expect(asking(clause('a', "grade = 'A'"))).toBe("Harvests where grade = 'A'");
    expect(asking(clause('a', 'kilos >= :min_kilos'), clause('b', "grade = 'A'", true))).toBe('Harvests where :min_kilos is 5');
  });

  test('names conditions of which one is enough as a whole, with parameters by their names, and those with their values behind', () => {
    const written = (id: string, source: string, off = false): Clause => ({
      id,
      kind: 'expression',
      off,
      expression: { text: source, refs: [] },
    });
    const group = (head: Head, ...clauses: readonly Clause[]): Clause => ({ id: 'group', kind: 'group', off: false, head, clauses });
    const said = (head: Head, ...clauses: readonly Clause[]) => {
      const step = { ...(definition.steps[1] as Step & { kind: 'criteria' }), head, clauses };
      return sentenceText(datasetSentence(checkTrail(ending({ ...definition, steps: [table, step] })), {}));
    };
    const good = written('good', "grade = 'A'");
    expect(said('every one', group('at least one', asked, good), written('b', 'id > 1'))).toBe(
      "Harvests where (at least one: kilos at least :min_kilos; grade = 'A') and id > 1, :min_kilos is 5",
    );
    expect(said('at least one', asked, good)).toBe("Harvests where (kilos at least :min_kilos or grade = 'A'), :min_kilos is 5");
    expect(said('none', asked)).toBe('Harvests where none of: kilos at least :min_kilos, :min_kilos is 5');
    // Of what is off or empty nothing is said, and then one is as good as every one.
    const idle = [written('off', 'id > 1', true), written('empty', ' ')];
    expect(said('every one', group('at least one', asked, ...idle))).toBe('Harvests where kilos at least 5');
    expect(said('every one', group('at least one', asked, good, ...idle))).toBe(
      "Harvests where (at least one: kilos at least :min_kilos; grade = 'A'), :min_kilos is 5",
    );
  });
});

const rows: readonly ReadonlyMap<string, Value>[] = [
  [1, '4.99', 'A'],
  [2, '5.00', 'B'],
  [3, null, 'A'],
  [4, '60.00', 'A'],
].map(
  ([id, kilos, grade]) =>
    new Map<string, Value>([
      ['id', { digits: BigInt(id as number), scale: 0 }],
      ['kilos', kilos === null ? null : { digits: BigInt(String(kilos).replace('.', '')), scale: 2 }],
      ['grade', grade as string],
    ]),
);
const tables: TableRows = () => rows;
const idsAfter = (given: Definition, binding: Binding) =>
  evaluateTrail(given, 'c', binding, tables).rows.map((row) => Number((row.get('id') as { digits: bigint }).digits));

describe('the naive evaluator', () => {
  test.each([
    [{}, [2, 4]],
    [{ p: ['60'] }, [4]],
    [{ p: [] }, [1, 2, 3, 4]],
  ])('keeps rows with values %j as %j', (given, ids) => expect(idsAfter(definition, bind(given))).toEqual(ids));

  test('under “none”, a row whose clause is unknown stays', () => {
    const none = applyEdits(definition, [{ kind: 'set step', step: 'c', property: 'head', from: 'every one', to: 'none' }]);
    expect(idsAfter(none, bind())).toEqual([1, 3]);
  });

  test('a disabled step lets all rows through', () => {
    const off = applyEdits(definition, [{ kind: 'set step', step: 'c', property: 'off', from: false, to: true }]);
    expect(idsAfter(off, bind())).toEqual([1, 2, 3, 4]);
  });
});

describe('binding values', () => {
  test.each([
    ['a word for a number', { p: ['many'] }, 'value-wrong-type', 'a number with at most 6 decimals'],
    ['several for one', { p: ['1', '2'] }, 'value-several', 'one value'],
    ['a comma list', { p: ['1,2'] }, 'value-wrong-type', 'did you mean several values?'],
    ['too many decimals', { p: ['0.0000001'] }, 'value-wrong-type', 'at most 6 decimals'],
  ])('%s is refused at the parameter', (_, given, code, expected) => {
    const [found] = bindValues([minKilos], given, 0n).problems;
    expect(found).toMatchObject({ code, place: { parameter: 'p' } });
    expect(found?.expected).toContain(expected);
  });

  test('a range from after until is refused, and an open end is open', () => {
    const range: Parameter = { ...minKilos, type: 'date', takes: 'range', startsAs: [] };
    expect(bindValues([range], { p: ['2025-05-02', '2025-05-01'] }, 0n).problems[0]?.code).toBe('range-reversed');
    expect([...bindValues([range], { p: ['', '2025-05-01'] }, 0n).blanks]).toEqual([['p.from', 'off']]);
  });

  test('a new parameter takes its type from the field and its shape from the operator', () => {
    const [field] = checkTrail(definition).steps[0]?.schema.fields ?? [];
    expect(field && parameterFor(() => 'x', 'ids', field, 'one of')).toMatchObject({
      type: 'whole number',
      takes: 'several',
      leftBlank: 'condition is off',
    });
  });
});

test('criteria steps begin with one empty clause that asks nothing', () => {
  const step = criteriaStep(() => 'x', 't');
  expect(checkTrail(ending({ ...definition, steps: [table, step] })).steps[1]).toMatchObject({
    title: 'an empty clause',
    problems: [],
    blocked: false,
  });
});
