import type { Field, FieldType } from '@cendra/core';
import { COMMON_CALENDAR, date, decimal, linkReferences, text, whole } from '@cendra/core';
import type { LiveRows, ShownTrace, Written } from '../src/bench/calculate/values';
import { liveValues, traceOf, verdictOf } from '../src/bench/calculate/values';

/** What the worker answers while an expression is written: verdict, values on a handful of rows, and a trace. */

const field = (name: string, type: FieldType): Field => ({
  id: name,
  name,
  type,
  role: 'attribute',
  origin: { step: 's', column: name },
  forUseOnly: false,
});
const schema = { fields: [field('kilos', decimal(8, 2)), field('boxes', whole), field('region', text), field('picked_on', date)] };
const written = (source: string): Written => ({
  expression: linkReferences(source, { schema, parameters: [] }),
  schema,
  absent: [],
  parameters: [],
  calendar: COMMON_CALENDAR,
});
const given = { values: {}, now: 0n };
const rowsFor = (source: string, extra: readonly string[] = [], ...rows: LiveRows['rows']): LiveRows => ({
  columns: ['kilos', 'boxes', 'region', 'picked_on', ...extra],
  rows: rows.map((cells, index) => [String(index), ...cells]),
  otherRows: verdictOf(written(source)).otherRows,
});
const harvest = ['12.50', '0', 'Fennick', '2024-02-29'] as const;

const shown = (source: string, live: LiveRows, at?: { from: number; to: number }) =>
  liveValues(written(source), live, given, at)?.values.map(({ whole: value, part }) =>
    [value, part].map((each) => (each.unknown ? '…' : each.failed ? '! failed' : each.text)),
  );

test('a verdict tells the type in words, the fields used, and whether other rows are looked at', () => {
  expect(verdictOf(written('kilos * boxes'))).toEqual({ problems: [], type: 'decimal(27,2)', used: ['kilos', 'boxes'], otherRows: '' });
  expect(verdictOf(written('sum(kilos) over ()')).otherRows).toBe('sum(kilos) over ()');
  expect(verdictOf(written('kilo')).problems[0]).toMatchObject({ code: 'field-unknown', instead: 'kilos' });
});

test('values come for each row, null and failed told apart, and the part that is pointed at with its own', () => {
  const source = 'kilos / boxes + 1';
  const live = rowsFor(source, [], harvest, ['12.50', '5', null, null], [null, '5', null, null]);
  expect(shown(source, live)).toEqual([
    ['! failed', '! failed'],
    ['3.500000', '3.500000'],
    [null, null],
  ]);
  expect(shown(source, live, { from: 7, to: 7 })?.map(([, part]) => part)).toEqual(['! failed', '2.500000', null]);
  expect(shown(source, live, { from: 9, to: 9 })?.map(([, part]) => part)).toEqual(['0', '5', '5']);
});

test('a text too long to be here whole leaves its values open, and no others', () => {
  const live = rowsFor('', [], ['1.00', '1', { t: 'a long remark', n: 5_000 }, null]);
  expect(shown('char_length(region)', live)).toEqual([['…', '…']]);
  expect(shown('kilos', live)).toEqual([['1.00', '1.00']]);
});

test('what fits no type is shown as its source has it, and fails what is made of it', () => {
  const live = rowsFor('', [], [{ m: 'NaN' }, '1', 'Fennick', { m: 'infinity' }]);
  expect(shown('kilos', live)).toEqual([['NaN', 'NaN']]);
  expect(shown('kilos + 1', live)).toEqual([['! failed', '! failed']]);
  expect(shown('end_of_month(picked_on)', live)).toEqual([['! failed', '! failed']]);
  expect(shown('coalesce(kilos, 0)', live)).toEqual([['0.00', '0.00']]);
  const traced = traceOf(written('kilos + 1'), live, given, 0);
  expect(traced?.shown).toEqual({ text: null, failed: true, unknown: false });
  expect(traced?.parts[0]?.shown).toEqual({ text: 'NaN', failed: false, unknown: false });
});

test('values over other rows are those the engine gave for this very text, and open until it has', () => {
  const source = 'kilos / sum(kilos) over (partition by region)';
  const columns = ['window 0', 'place 0', 'peers 0'];
  const live = rowsFor(source, columns, [...harvest, '50.00', '3', '4']);
  expect(shown(source, live)).toEqual([['0.250000', '0.250000']]);
  expect(shown('kilos / sum(kilos) over ()', live)).toEqual([['…', '…']]);
});

describe('a trace', () => {
  const framesIn = (each: ShownTrace): readonly (ShownTrace['frame'] & object)[] => [
    ...(each.frame ? [each.frame] : []),
    ...each.parts.flatMap(framesIn),
  ];
  const frameOf = (source: string) => {
    const live = rowsFor(source, ['window 0', 'place 0', 'peers 0'], [...harvest, '5', '3', '4']);
    const told = traceOf(written(source), live, given, 0);
    return told && framesIn(told)[0];
  };

  test.each([
    ['sum(kilos) over (partition by region)', 1, 4, ['Fennick']],
    ['sum(kilos) over (order by picked_on)', 1, 4, []],
    ['sum(kilos) over (order by picked_on rows between 1 preceding and current row)', 2, 3, []],
    ['sum(kilos) over (order by picked_on rows between 5 preceding and 1 following)', 1, 4, []],
    ['lag(kilos) over (order by picked_on)', 2, 2, []],
    ['lead(kilos, 2) over (order by picked_on)', 5, 5, []],
    ['first_value(kilos) over (order by picked_on)', 1, 1, []],
  ])('of %s names the rows %i to %i', (source, from, until, partition) => {
    expect(frameOf(source)).toMatchObject({ from, until, partition, place: 3 });
  });

  test('shows each part with its value', () => {
    const told = traceOf(written("region || ' ' || format_date(picked_on, 'yyyy')"), rowsFor('', [], harvest), given, 0);
    expect([told?.shown.text, told?.parts.map((each) => each.shown.text)]).toEqual(['Fennick 2024', ['Fennick ', '2024']]);
  });
});
