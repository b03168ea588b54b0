import type { Across, Layout, Mark, SheetEntry } from '../src';
import {
  besideColumn,
  columnText,
  decimal,
  fittingLayout,
  keyColumn,
  LINE,
  lineReader,
  lineWords,
  lookOf,
  marksOf,
  overWords,
  PLAIN_LAYOUT,
  proofTable,
  sheetFields,
  text,
} from '../src';
import { handed as field } from './support/fields';

/** Several totals of columns per value, on a line each. */

const sheet: readonly SheetEntry[] = [{ field: 'kilos', format: { pattern: '#,##0.0', unit: 'kg' } }];
const fields = sheetFields(
  { fields: [field('region', text, 'attribute'), field('kilos', decimal(8, 2), 'measure'), field('batch', text, 'code')] },
  sheet,
  [],
);

describe('totals below one another', () => {
  const levels = [{ field: 'region', descending: false, subtotal: true }];
  const across: Across = { levels: [{ field: 'batch', descending: false, subtotal: true }], total: true, below: true };
  const totals = [
    { field: 'kilos', aggregate: 'sum' as const, beside: ['share' as const] },
    { field: 'kilos', aggregate: 'count' as const },
  ];
  const marks: readonly Mark[] = [{ id: 'm', field: 'kilos', of: 'count', operator: 'above', operands: ['2'], look: 'lettered' }];
  const below = (given: Partial<Layout>) =>
    proofTable(fittingLayout({ ...PLAIN_LAYOUT, levels, across, totals, marks, ...given }, fields), fields, [
      [{ value: '7' }],
      [{ value: '9' }],
    ]);
  const lineOf = (of: ReturnType<typeof below>, measure: string, cells: Readonly<Record<string, string | null>>) =>
    lineReader(
      { columns: [LINE.kind, LINE.level, LINE.measure, keyColumn(1), ...Object.keys(cells)].map((id) => ({ id })) },
      of.layout,
    )(['0', '2', '1', measure, 'north', ...Object.values(cells)]);

  test('have one column of each value, and say which they are in the words of their line', () => {
    const table = below({ totals: totals.map(({ field, aggregate }) => ({ field, aggregate })) });
    // The last line of heads stands in the place of the columns' own.
    expect(table.heads).toEqual([]);
    expect(table.columns.map(({ header }) => header)).toEqual(['7', '9', 'Everything']);
    const [sum, count] = [
      lineOf(table, '0', { line_rows: '3', cell_rows_0: '2', cell_rows_1: '1', total_0: '12.50', total_2: '3.00' }),
      lineOf(table, '1', { line_rows: '3', cell_rows_0: '2', cell_rows_1: '1', total_1: '2', total_3: '1' }),
    ];
    expect([sum, count].map((each) => lineWords(each, table))).toEqual(['north, sum of Kilos', 'north, count of Kilos']);
    expect([sum, count].map((each) => overWords(each, table))).toEqual(['3 rows', '']);
    const shown = (line: typeof sum) => table.columns.slice(0, 2).map((column) => columnText(line, column, table));
    expect([shown(sum), shown(count)]).toEqual([
      ['12.5', '3.0'],
      ['2', '1'],
    ]);
    expect([lookOf(sum, table.layout), lookOf(count, table.layout)]).toEqual(['row', 'row']);
  });

  test('keep what stands beside one of them, and their marks, on its line alone', () => {
    const table = below({});
    expect(table.columns.slice(0, 4).map(({ header }) => header)).toEqual(['', 'share, %', '', 'share, %']);
    expect(table.heads[0]?.map(({ words, columns }) => [words, columns])).toEqual([
      ['7', 2],
      ['9', 2],
      ['Everything', 2],
    ]);
    const [own, share] = table.columns;
    const [sum, count] = [
      lineOf(table, '0', { cell_rows_0: '3', total_0: '12.50', [besideColumn(0, 'share')]: '41.25' }),
      lineOf(table, '1', { cell_rows_0: '3', total_1: '3' }),
    ];
    if (!own || !share) throw new Error('each value has two columns');
    expect([sum, count].map((each) => columnText(each, share, table))).toEqual(['41.3', '']);
    expect([sum, count].map((each) => marksOf(each, own, table).letters)).toEqual(['', 'a']);
  });

  test('are beside one another where there is only one', () => {
    const table = below({ totals: totals.slice(1) });
    expect(table.columns.map(({ header }) => header)).toEqual(['Kilos, kg', 'Kilos, kg', 'Kilos, kg']);
    expect(table.heads).toHaveLength(1);
  });
});
