import type { Definition, Layout, Mark, Parameter, SheetEntry, SheetField, Step } from '../src';
import {
  applyEdits,
  checkTrail,
  COMMON_CALENDAR,
  datasetSentence,
  date,
  decimal,
  editSentence,
  fittingLayout,
  reportFields,
  keptOperand,
  layoutProblems,
  layoutWithIds,
  layoutShape,
  lineageOf,
  markCondition,
  ofKind,
  PLAIN_LAYOUT,
  sentenceText,
  readLayout,
  sheetFields,
  takeFieldEdits,
  text,
  typedOperand,
  untakenFields,
  whole,
  withMarkValues,
  withFreshIds,
  withoutValues,
} from '../src';
import { handed as field } from './support/fields';
import { definition, ending, table } from './support/harvests';

const fieldsOf = (...sheet: readonly SheetEntry[]): readonly SheetField[] =>
  sheetFields(
    {
      fields: [
        field('id', whole, 'key'),
        field('kilos', decimal(8, 2), 'measure'),
        field('moisture', decimal(4, 1), 'measure'),
        field('grade', text, 'attribute'),
        field('picked_on', date, 'date'),
      ],
    },
    sheet,
    [],
  );
const layout = (given: Partial<Layout>): Layout => ({ ...PLAIN_LAYOUT, ...given });
const level = (name: string) => ({ field: name, descending: false, subtotal: true });
const mark = (given: Partial<Mark>): Mark => ({ id: 'm', field: 'kilos', operator: 'above', operands: ['30'], look: 'strong', ...given });

describe('an order that is written', () => {
  const listed = ['3', 'plenty', '1'];
  const told = (given: Partial<Layout['levels'][number]>) =>
    layoutProblems(layout({ levels: [{ ...level('id'), listed, ...given }] }), fieldsOf()).map(({ code, message }) => [code, message]);

  test('tells what can be no value of its field, and nothing where it is not the order', () => {
    expect(told({})).toEqual([['order-unread', '“plenty” in the order of id can be no value of it, so it orders nothing.']]);
    expect(told({ listed: ['3', '1'] })).toEqual([]);
    expect(told({ by: { field: 'kilos', aggregate: 'sum' } })).toEqual([]);
    expect(layoutProblems(layout({ across: { levels: [{ ...level('id'), listed }], total: true } }), fieldsOf())).toHaveLength(1);
  });

  test('is none of stretches of days, and not seen by who lacks the source', () => {
    const days = { field: 'picked_on', descending: false, subtotal: true, stretch: 'month', listed: ['2024-05-01'] } as const;
    const fitting = { ...layout({ levels: [days] }), totals: [] };
    expect(readLayout(fitting, fieldsOf(), COMMON_CALENDAR).layout.levels[0]).not.toHaveProperty('listed');
    const across = { levels: [{ ...level('grade'), listed: ['secret'] }], total: true };
    const kept = { ...definition, proof: layout({ levels: [{ ...level('id'), listed: ['secret'] }], across }) };
    expect(JSON.stringify(kept)).toContain('secret');
    expect(JSON.stringify(withoutValues(kept))).not.toContain('secret');
  });
});

describe('columns per value', () => {
  const across = { levels: [level('grade')], total: true };

  test('leave single rows out, and are left out where their field stands down already or is not handed over', () => {
    const fields = fieldsOf();
    expect(fittingLayout(layout({ across }), fields)).toMatchObject({ across, rows: false });
    expect(fittingLayout(layout({ across, levels: [level('grade')] }), fields)).toMatchObject({ rows: true, levels: [level('grade')] });
    expect(fittingLayout(layout({ across, levels: [level('grade')] }), fields).across).toBeUndefined();
    const gone = fieldsOf({ field: 'grade', forUseOnly: true });
    expect(fittingLayout(layout({ across }), gone).across).toBeUndefined();
    expect(layoutProblems(layout({ across }), gone)).toMatchObject([
      { code: 'proof-field-gone', message: 'The proof has columns of a field that is not handed over.', place: { field: 'grade' } },
    ]);
  });

  test('are told in the history, and go with a field that is exchanged or copied', () => {
    const sentence = (from: Layout['across'], to: Layout['across']) =>
      editSentence({ kind: 'set proof', property: 'across', ...(from ? { from } : {}), ...(to ? { to } : {}) }, definition);
    const kilos = { levels: [level('kilos')], total: true };
    expect(sentence(undefined, kilos)).toContain('one column per kilos');
    expect(sentence(kilos, { ...kilos, total: false })).toContain('leaves out the total over the columns');
    expect(sentence(kilos, { ...kilos, levels: [{ ...level('kilos'), descending: true }] })).toContain('orders kilos downwards');
    expect(sentence(kilos, undefined)).toContain('no columns per value');
    const copy = withFreshIds(
      {
        ...definition,
        proof: layout({ across: { ...kilos, levels: [{ ...level('kilos'), by: { field: 'moisture', aggregate: 'sum' } }] } }),
      },
      (
        (count) => () =>
          `copy-${count++}`
      )(0),
    );
    const [copied] = copy.proof.across?.levels ?? [];
    expect([copied?.field, copied?.by?.field]).toEqual([expect.stringMatching(/^copy-/), expect.stringMatching(/^copy-/)]);
  });
});

describe('the layout of a proof', () => {
  test('totals every measure that may be added, unless it says otherwise', () => {
    const fields = fieldsOf({ field: 'moisture', addsUp: 'over nothing' });
    expect(fittingLayout(PLAIN_LAYOUT, fields).totals).toEqual([{ field: 'kilos', aggregate: 'sum' }]);
    expect(fittingLayout(layout({ totals: [] }), fields).totals).toEqual([]);
  });

  test('leaves out what is not handed over, and says each time what', () => {
    const fields = fieldsOf({ field: 'grade', forUseOnly: true });
    const wanted = layout({
      levels: [level('grade'), level('picked_on'), level('picked_on')],
      totals: [
        { field: 'gone', aggregate: 'count' },
        { field: 'kilos', aggregate: 'average' },
      ],
      marks: [mark({ id: 'a', field: 'grade', operator: 'has a value', operands: [] }), mark({ id: 'b' })],
    });
    expect(fittingLayout(wanted, fields)).toMatchObject({
      levels: [level('picked_on')],
      totals: [{ field: 'kilos', aggregate: 'average' }],
      marks: [{ id: 'b' }],
    });
    expect(layoutProblems(wanted, fields).map(({ code, message, place }) => [code, message, place.field])).toEqual([
      ['proof-field-gone', 'The proof groups by a field that is not handed over.', 'grade'],
      ['proof-field-gone', 'The proof totals a field that is not handed over.', 'gone'],
      ['proof-field-gone', 'The proof marks a field that is not handed over.', 'grade'],
    ]);
  });

  test.each([
    ['id', 'sum', 'key'],
    ['grade', 'average', 'attribute'],
    ['picked_on', 'sum', 'date'],
  ] as const)('never gives the total of %s by %s, and tells what is allowed', (name, aggregate, role) => {
    const wanted = layout({ totals: [{ field: name, aggregate }] });
    expect(fittingLayout(wanted, fieldsOf()).totals).toEqual([]);
    const [found] = layoutProblems(wanted, fieldsOf());
    expect(found?.message).toContain(`it is a ${role}`);
    expect(found?.expected).toContain('count');
  });

  test.each([
    ['above 30', mark({}), true, 0],
    ['above plenty', mark({ operands: ['plenty'] }), false, 1],
    ['above what is still to be typed', mark({ operands: [] }), false, 0],
    ['has a value', mark({ operator: 'has a value', operands: [] }), true, 0],
    ['within days', mark({ field: 'picked_on', operator: 'within', operands: ['2025-04-01', '2025-09-30'] }), true, 0],
    ['a number that begins with', mark({ operator: 'begins with' }), false, 1],
    ['no operator', mark({ operator: 'no such word' }), false, 1],
  ])('marks values only where the condition can be computed: %s', (_words, given, shows, problems) => {
    const field = fieldsOf().find((each) => each.id === given.field);
    expect(markCondition(given, [field as SheetField]).problems).toHaveLength(problems);
    expect(fittingLayout(layout({ marks: [given] }), fieldsOf()).marks).toHaveLength(shows ? 1 : 0);
  });

  test('can name a total for every field of a wide dataset, and no more levels than six', () => {
    const totals = Array.from({ length: 1_600 }, (_, at) => ({ field: `f${at}`, aggregate: 'sum' as const }));
    expect(layoutShape.safeParse(layout({ totals })).success).toBe(true);
    expect(layoutShape.safeParse(layout({ levels: Array.from({ length: 7 }, () => level('grade')) })).success).toBe(false);
    const wide: Definition = { ...definition, proof: layout({ totals }) };
    const fewer = applyEdits(wide, [{ kind: 'set proof', property: 'totals', from: totals, to: totals.slice(1) }]);
    expect(fewer.proof.totals).toHaveLength(1_599);
  });
});

describe('where a field comes from', () => {
  const calculate: Step = {
    id: 'k',
    kind: 'calculate',
    name: 'Shares',
    off: false,
    inputs: ['c'],
    fields: [
      { id: 'half', name: 'half', expression: { text: 'kilos /\n 2', refs: [{ kind: 'field', id: 'kilos', from: 0, to: 5 }] } },
      { id: 'share', name: 'share', expression: { text: 'half / 100', refs: [{ kind: 'field', id: 'half', from: 0, to: 4 }] } },
    ],
  };
  const trail = checkTrail(ending({ ...definition, steps: [...definition.steps, calculate] }));

  test('is told down to the columns of the source, through earlier calculated fields', () => {
    expect(lineageOf(trail, 'share')).toMatchObject({
      columns: [{ step: 't', source: 's', table: 'coop.harvests', column: 'kilos' }],
      madeIn: [
        { step: 't', how: 'reads kilos' },
        { step: 'k', title: 'Shares', how: 'half = kilos / 2' },
        { step: 'k', title: 'Shares', how: 'share = half / 100' },
      ],
    });
  });

  test('and which steps ask about it', () => {
    expect(lineageOf(trail, 'half').usedIn.map((each) => each.step)).toEqual(['k']);
    expect(lineageOf(trail, 'grade').usedIn).toEqual([]);
    expect(lineageOf(trail, 'nowhere')).toEqual({ columns: [], madeIn: [], usedIn: [] });
  });

  test('is no part of the sheet: a column that is not taken is not handed over', () => {
    expect(table.kind === 'table' && table.taken).not.toContain('grade');
    expect(
      reportFields(trail)
        .filter((each) => !each.forUseOnly)
        .map((each) => each.id),
    ).toEqual(['id', 'kilos', 'half', 'share']);
  });
});

describe('a mark by a parameter', () => {
  const limit = {
    id: 'p',
    name: 'limit',
    type: 'decimal',
    takes: 'one',
    leftBlank: 'condition is off',
    startsAs: ['30'],
    hint: '',
  } as const;
  const span = { ...limit, id: 's', name: 'span', takes: 'range' } as const;
  const fields = fieldsOf();
  const asked = mark({ operands: [keptOperand(':limit', [limit])] });

  test('is kept by its id and typed by its name', () => {
    expect(asked.operands).toEqual([':{p}']);
    expect(typedOperand(':{p}', [{ ...limit, name: 'most' }])).toBe(':most');
    expect([keptOperand('10:30', [limit]), keptOperand(':other', [limit])]).toEqual(['10:30', ':other']);
    expect(layoutWithIds(layout({ marks: [asked] }), (each) => `new ${each}`).marks[0]).toMatchObject({
      id: 'new m',
      field: 'new kilos',
      operands: [':{new p}'],
    });
  });

  test('asks with the value in use, and shows nowhere while that is blank or gone', () => {
    const told = (values: Record<string, string[]>, given: Mark = asked) =>
      withMarkValues(layout({ marks: [given] }), [limit, span], values).marks.map((each) => each.operands);
    expect(told({ p: ['25'] })).toEqual([['25']]);
    expect(told({})).toEqual([['30']]);
    expect(told({ p: [''] })).toEqual([]);
    expect(told({}, mark({ operands: [':{gone}'] }))).toEqual([]);
    expect(told({ s: ['1', '2'] }, mark({ operator: 'between', operands: [':{s}'] }))).toEqual([['1', '2']]);
    expect(told({}, mark({}))).toEqual([['30']]);
  });

  test('of another type, of several values, or gone, is a finding', () => {
    const found = (given: Mark, ...parameters: readonly Parameter[]) =>
      layoutProblems(layout({ marks: [given] }), fields, parameters).map((each) => each.code);
    expect(found(asked, limit)).toEqual([]);
    expect(fittingLayout(layout({ marks: [asked] }), fields, [limit]).marks).toEqual([asked]);
    expect(found(asked)).toEqual(['parameter-gone']);
    expect(found(asked, { ...limit, type: 'date' })).toEqual(['type-mixed']);
    expect(found(mark({ operands: [':{s}'] }), span)).toEqual(['parameter-takes']);
  });

  test('is used by that, and stands in the sentence as no condition', () => {
    const other = { ...limit, id: 'q', name: 'other' };
    const own = { ...definition, steps: [table], result: table.id };
    const marks = [mark({ operands: [':{p}'] })];
    const unused = (proof: Partial<Layout>) =>
      checkTrail({ ...own, parameters: [limit, other], proof: layout(proof) })
        .problems.filter((each) => each.code === 'parameter-unused')
        .map((each) => each.place.parameter);
    expect([unused({}), unused({ title: 'Over :{p}' }), unused({ note: ':{q}', marks })]).toEqual([['p', 'q'], ['q'], []]);
    const trail = checkTrail({ ...own, parameters: [limit], proof: layout({ marks }) });
    expect(sentenceText(datasetSentence(trail, { p: ['25'] }))).toBe('Harvests, kilos marked above 25');
  });
});

test('a field that is not taken yet is taken where it comes in, and then handed over', () => {
  const own = { ...definition, steps: [{ ...table, taken: ['kilos'] }], result: table.id, parameters: [] };
  const trail = checkTrail(own);
  expect([...untakenFields(trail)].sort()).toEqual(
    (ofKind('table', table)?.fields ?? []).flatMap(({ id }) => (id === 'kilos' ? [] : [id])).sort(),
  );
  const edits = takeFieldEdits(trail, 'grade');
  const handed = reportFields(checkTrail(applyEdits(own, edits))).filter((each) => !each.forUseOnly);
  expect(handed.map((each) => each.id)).toEqual(['kilos', 'grade']);
  expect(takeFieldEdits(trail, 'kilos')).toEqual([]);
});
