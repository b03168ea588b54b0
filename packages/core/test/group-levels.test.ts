import type { Also, GivenValues, Layout, Level, Parameter, SheetField } from '../src';
import {
  checkTrail,
  columnsOfValues,
  COMMON_CALENDAR,
  date,
  decimal,
  editSentence,
  fittingLayout,
  layoutProblems,
  layoutShape,
  layoutWithIds,
  PLAIN_LAYOUT,
  readLayout,
  sheetFields,
  text,
  withAlso,
} from '../src';
import { handed as field } from './support/fields';
import { definition } from './support/harvests';

/** Which groups a level of a proof has: its first ones, and some there are no rows of. */

const fields: readonly SheetField[] = sheetFields(
  { fields: [field('grade', text, 'attribute'), field('picked_on', date, 'date'), field('kilos', decimal(8, 2), 'measure')] },
  [],
  [],
);
const parameter = (given: Partial<Parameter>): Parameter => ({
  id: 'p',
  name: 'p',
  type: 'text',
  takes: 'several',
  leftBlank: 'condition is off',
  startsAs: [],
  hint: '',
  ...given,
});
const level = (given: Partial<Level>): Level => ({ field: 'grade', descending: false, subtotal: true, ...given });
const layout = (...levels: readonly Level[]): Layout => ({ ...PLAIN_LAYOUT, levels });

function there(given: Partial<Level>, asked: Partial<Parameter> = {}, values: GivenValues = {}) {
  const parameters = [parameter(asked)];
  const read = readLayout(fittingLayout(layout(level(given)), fields, parameters), fields, COMMON_CALENDAR);
  const own = read.layout.levels[0]?.field ?? '';
  const spans = new Map([[own, ['2024-11-01', '2025-02-01'] as const]]);
  const known = { parameters, values, calendar: COMMON_CALENDAR, spans, found: () => [['A'], ['B']], columnAt: () => undefined };
  return withAlso(read, known).layout.levels[0]?.there?.map(({ value }) => value);
}

describe('groups without rows', () => {
  const months = { field: 'picked_on', stretch: 'month' } as const;

  test('are every stretch between the first and the last', () =>
    expect(there({ ...months, also: { of: 'span' } })).toEqual(['2024-11-01', '2024-12-01', '2025-01-01', '2025-02-01']));

  test('are every stretch of a range, which reaches as far as there are rows where it is open', () => {
    const asked = { type: 'date', takes: 'range' } as const;
    const also: Also = { of: 'parameter', parameter: 'p' };
    expect(there({ ...months, also }, asked, { p: ['2025-01-20', '2025-03-02'] })).toEqual(['2025-01-01', '2025-02-01', '2025-03-01']);
    expect(there({ ...months, also }, asked, { p: ['', '2024-12-24'] })).toEqual(['2024-11-01', '2024-12-01']);
    expect(there({ ...months, also }, { ...asked, startsAs: ['2025-02-03', '2025-02-04'] })).toEqual(['2025-02-01']);
  });

  test('are each value a parameter has, and each it offers', () => {
    expect(there({ also: { of: 'parameter', parameter: 'p' } }, {}, { p: ['B', 'C', 'B'] })).toEqual(['B', 'C']);
    const items = ['A', 'C'].map((value) => ({ value, label: `grade ${value}` }));
    expect(there({ also: { of: 'choices', parameter: 'p' } }, { choices: { from: 'typed', items } })).toEqual(['A', 'C']);
  });

  test('are each value a field has at a step', () => expect(there({ also: { of: 'field', step: 't', field: 'g' } })).toEqual(['A', 'B']));

  test('are none where the first stand by themselves, no stretch is spanned, or the parameter is gone, which is told', () => {
    expect(there({ first: 3, also: { of: 'field', step: 't', field: 'g' } })).toBeUndefined();
    expect(there({ also: { of: 'span' } })).toBeUndefined();
    const gone = layout(level({ also: { of: 'parameter', parameter: 'other' } }));
    expect(fittingLayout(gone, fields, []).levels[0]?.also).toBeUndefined();
    expect(layoutProblems(gone, fields, []).map(({ code, message }) => [code, message])).toEqual([
      ['groups-parameter-gone', 'The groups of grade without rows are those of a parameter that is gone.'],
    ]);
  });

  test('are refused where nobody would read them all', () => {
    const asked = { type: 'date', takes: 'range' } as const;
    const days = { field: 'picked_on', stretch: 'day', also: { of: 'parameter', parameter: 'p' } } as const;
    expect(there(days, asked, { p: ['2020-01-01', '2022-09-26'] })).toHaveLength(1_000);
    expect(() => there(days, asked, { p: ['2020-01-01', '2022-09-27'] })).toThrow('more than 1000 groups');
  });

  test('are kept with their step, field and parameter by ids that go with a copy, and never with their values', () => {
    const kept = layout(level({ also: { of: 'field', step: 's', field: 'g' } }), level({ also: { of: 'choices', parameter: 'p' } }));
    const copied = layoutWithIds(kept, (id) => `new ${id}`).levels.map((each) => each.also);
    expect(copied).toEqual([
      { of: 'field', step: 'new s', field: 'new g' },
      { of: 'choices', parameter: 'new p' },
    ]);
    expect(layoutShape.safeParse(kept).success).toBe(true);
    expect(layoutShape.safeParse(layout(level({ there: [{ value: 'A' }] }))).success).toBe(false);
  });

  test('may be those of the column a field is read from', () => {
    const trail = checkTrail(definition);
    const id = trail.steps[0]?.schema.fields[0]?.id ?? '';
    expect(columnsOfValues(trail, id)).toMatchObject([{ step: trail.steps[0]?.step.id, field: id }]);
    expect(columnsOfValues(trail, 'gone')).toEqual([]);
  });
});

test('what is changed of a level is told by what was changed', () => {
  const said = (from: Partial<Level>, to: Partial<Level>) =>
    editSentence({ kind: 'set proof', property: 'levels', from: [level(from)], to: [level(to)] }, definition);
  expect(said({}, { first: 5 })).toContain('shows the first 5 of grade, the rest together');
  expect(said({ first: 5 }, {})).toContain('shows all groups of grade');
  expect(said({}, { also: { of: 'span' } })).toContain('shows groups of grade also without rows');
  expect(said({ also: { of: 'span' } }, {})).toContain('shows only groups of grade with rows');
});
