import fc from 'fast-check';
import type { Chart, Field, FieldType, Layout, Role, SheetEntry } from '@cendra/core';
import {
  cellRowsColumn,
  chartReading,
  decimal,
  firstChart,
  keyColumn,
  LINE,
  LINE_KINDS,
  lineReader,
  PLAIN_LAYOUT,
  sheetFields,
  text,
  totalColumn,
  whole,
} from '@cendra/core';
import type { ProofDto } from '../src/api';
import type { Cell } from '../src/ui/cell';
import type { DrawnChart } from '../src/proof/chart/drawn';
import { drawnOf, scaleOf } from '../src/proof/chart/drawn';
import { lookOf } from '../src/proof/chart/looks';

/** What a chart draws of the lines of a proof: the same figures, as far as they can be told apart, and what it leaves out. */

const field = (id: string, type: FieldType, role: Role): Field => ({
  id,
  name: id,
  type,
  role,
  origin: { step: 't', column: id },
  forUseOnly: false,
});
const SHEET: readonly SheetEntry[] = [
  { field: 'kilos', label: 'Kilos', format: { pattern: '#,##0.0' } },
  { field: 'region', label: 'Region' },
  { field: 'season', label: 'Season' },
];
const fields = sheetFields(
  { fields: [field('region', text, 'attribute'), field('season', whole, 'attribute'), field('kilos', decimal(8, 2), 'measure')] },
  SHEET,
  [],
);
const by = (id: string) => ({ field: id, descending: false, subtotal: true });
const layoutWith = (given: Partial<Layout>): Layout => ({ ...PLAIN_LAYOUT, rows: false, levels: [by('region')], chart: BARS, ...given });
const BARS: Chart = { as: 'bars side by side', field: 'kilos', aggregate: 'sum' };

function readingOf(given: Partial<Layout>) {
  const reading = chartReading(layoutWith(given), fields);
  if (!reading) throw new Error('nothing is drawn');
  return reading;
}

/** Lines of totals as the server sends them: keys, and a total for each column per value. */
function drawn(
  given: Partial<Layout>,
  lines: readonly { readonly keys: readonly Cell[]; readonly totals: readonly Cell[] }[],
  across?: readonly (string | null)[],
  all = lines.length,
) {
  const reading = readingOf(given);
  const levels = reading.layout.levels.length;
  const places = across?.length ?? 1;
  const ids = [
    LINE.kind,
    LINE.level,
    ...Array.from({ length: levels }, (_each, at) => keyColumn(at + 1)),
    ...Array.from({ length: places }, (_each, at) => totalColumn(at)),
    ...Array.from({ length: across ? places : 0 }, (_each, at) => cellRowsColumn(at)),
  ];
  const proof = { columns: ids.map((id) => ({ id, name: id, type: text })) } as unknown as ProofDto;
  const read = lineReader(proof, reading.layout);
  const cells = lines.map(({ keys, totals }) => read([null, String(LINE_KINDS.indexOf('totals')), String(levels), ...keys, ...totals]));
  return drawnOf(
    reading,
    fields,
    across?.map((value) => [{ value }]),
    cells,
    all,
  );
}

test('each group has its figure, as a length and as it is read; one without is a gap that is told', () => {
  const { charts, notes } = drawn({}, [
    { keys: ['Fennick'], totals: ['12345.60'] },
    { keys: [null], totals: [null] },
    { keys: ['Saltmarsh'], totals: ['-3.00'] },
  ]);
  expect(charts).toEqual([
    {
      title: undefined,
      groups: ['Fennick', 'without a value', 'Saltmarsh'],
      series: [
        {
          name: 'sum of Kilos',
          figures: [12_345.6, null, -3].map((number) => ({ number, text: expect.any(String) as string })),
        },
      ],
    },
  ]);
  expect(charts[0]?.series[0]?.figures[0]?.text).toMatch(/^12.345\.6$/);
  expect(notes).toEqual(['1 figure is not there and not drawn: no rows, or no value.']);
});

test('values that stand across are series, at most twelve of them', () => {
  const across = Array.from({ length: 14 }, (_each, at) => String(2010 + at));
  const { charts, notes } = drawn(
    { across: { levels: [{ field: 'season', descending: false, subtotal: false }], total: true } },
    [{ keys: ['Fennick'], totals: across }],
    across,
  );
  expect(charts[0]?.series.map((each) => each.name)).toEqual(
    across.slice(0, 12).map((each) => expect.stringContaining(each.slice(1)) as string),
  );
  expect(charts[0]?.series[3]?.figures[0]?.number).toBe(2013);
  expect(notes).toEqual(['Drawn are the first 12 of 14 values of Season.']);
});

test('a second level makes a small chart of each group of the first one', () => {
  const { charts } = drawn({ levels: [by('region'), by('season')] }, [
    { keys: ['Fennick', '2024'], totals: ['1.00'] },
    { keys: ['Fennick', '2025'], totals: ['2.00'] },
    { keys: ['Saltmarsh', '2024'], totals: ['3.00'] },
  ]);
  expect(charts.map(({ title, groups, series }) => [title, groups.length, series[0]?.figures.map(({ number }) => number)])).toEqual([
    ['Fennick', 2, [1, 2]],
    ['Saltmarsh', 1, [3]],
  ]);
});

test('two groups that are read alike have a small chart each', () => {
  const { charts } = drawn({ levels: [by('region'), by('season')] }, [
    { keys: ['without a value', '2024'], totals: ['1.00'] },
    { keys: [null, '2024'], totals: ['2.00'] },
  ]);
  expect(charts.map(({ title, groups }) => [title, groups.length])).toEqual([
    ['without a value', 1],
    ['without a value', 1],
  ]);
});

test('of more groups than can be read the first are drawn, and that is said', () => {
  const many = Array.from({ length: 45 }, (_each, at) => ({ keys: [`group ${at}`], totals: ['1.00'] }));
  const bars = drawn({}, many, undefined, 6_000);
  expect(bars.charts[0]?.groups).toHaveLength(40);
  expect(bars.notes).toEqual(['Drawn is what the first 45 of 6000 groups say.', 'Drawn are the first 40 of 45 values of Region.']);
  expect(drawn({ chart: { ...BARS, as: 'lines' } }, many).notes).toEqual([]);
});

test('nothing is drawn without groups, or of a figure that no group shows', () => {
  expect(chartReading(layoutWith({ levels: [] }), fields)).toBeUndefined();
  expect(chartReading(layoutWith({}), [])).toBeDefined();
  const within = sheetFields(
    { fields: [field('region', text, 'attribute'), field('kilos', decimal(8, 2), 'measure')] },
    [{ field: 'kilos', addsUp: 'within one grouping', within: 'season' } as never],
    [],
  );
  expect(chartReading(layoutWith({}), within)).toBeUndefined();
});

test('a chart begins as lines over dates, and as bars over anything else', () => {
  expect(firstChart(layoutWith({}), fields)).toEqual(BARS);
  const dated = fields.map((each) => (each.id === 'region' ? { ...each, role: 'date' as const } : each));
  expect(firstChart(layoutWith({}), dated)).toEqual({ ...BARS, as: 'lines' });
  expect(firstChart(layoutWith({ levels: [] }), fields)).toBeUndefined();
});

describe('the scale', () => {
  const chartOf = (rows: readonly (readonly (number | null)[])[]): DrawnChart => ({
    title: undefined,
    groups: rows[0]?.map((_each, at) => `${at}`) ?? [],
    series: rows.map((row, at) => ({ name: `${at}`, figures: row.map((number) => ({ number, text: '' })) })),
  });
  const number = fc.oneof(
    fc.double({ min: -1e9, max: 1e9, noNaN: true }),
    fc.double({ min: 0.001, max: 1, noNaN: true }),
    fc.constant(null),
  );

  test('has room for every length, and a few round numbers in order', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(number, { minLength: 4, maxLength: 4 }), { minLength: 1, maxLength: 5 }),
        fc.boolean(),
        fc.boolean(),
        (rows, stacked, fromZero) => {
          const { from, to, ticks } = scaleOf([chartOf(rows)], stacked, fromZero);
          const columns = rows[0]?.map((_each, at) => rows.map((row) => row[at] ?? 0)) ?? [];
          const lengths = stacked
            ? columns.flatMap((own) =>
                [own.filter((each) => each > 0), own.filter((each) => each < 0)].map((some) => some.reduce((sum, each) => sum + each, 0)),
              )
            : rows.flat().flatMap((each) => each ?? []);
          const hair = (to - from) * 1e-9;
          for (const each of lengths) expect(each >= from - hair && each <= to + hair).toBe(true);
          if (fromZero) expect(from <= 0 && to >= 0 && ticks.includes(0)).toBe(true);
          expect(ticks.length).toBeGreaterThanOrEqual(2);
          expect(ticks.length).toBeLessThanOrEqual(12);
          expect(ticks).toEqual(ticks.toSorted((a, b) => a - b));
          expect([ticks[0], ticks.at(-1)]).toEqual([from, to]);
        },
      ),
    );
  });

  test('is of round numbers', () => {
    expect(scaleOf([chartOf([[12_204, 18_164.91]])], false, true).ticks).toEqual([0, 5000, 10_000, 15_000, 20_000]);
    expect(scaleOf([chartOf([[38.43, 39.05]])], false, false).ticks).toEqual([38.4, 38.6, 38.8, 39, 39.2]);
    expect(scaleOf([], false, true).ticks.length).toBeGreaterThanOrEqual(2);
  });
});

test('no two series look alike, neither by line nor by pattern, and colour is never the only sign', () => {
  const looks = Array.from({ length: 12 }, (_each, at) => lookOf(at));
  expect(new Set(looks.map(({ colour, dash }) => `${colour} ${dash}`)).size).toBe(12);
  expect(new Set(looks.map(({ colour, pattern }) => `${colour} ${pattern}`)).size).toBe(12);
  expect(new Set(looks.slice(0, 6).map(({ pattern }) => pattern)).size).toBe(6);
  expect(new Set(looks.slice(0, 6).map(({ dash }) => dash)).size).toBe(6);
});
