import fc from 'fast-check';
import type { Aggregate, Layout, ReadLayout, SheetEntry, SheetField, Value } from '@cendra/core';
import {
  AGGREGATES,
  compile,
  DAY_STRETCHES,
  duckdb,
  emptyDefinition,
  evaluate,
  LINE_KINDS,
  proofRelations,
  sheetFields,
  stretchColumns,
} from '@cendra/core';
import { keyed } from '../../../../packages/core/test/support/generate';
import type { Generated } from './generated';
import type { NaiveLine } from './naive-proof';
import { REST } from './naive-proof';

/** Layouts of the generated rows, and their lines as the server's statements make them. */

const UNBOUND = { bound: new Map(), now: 0n };
const sheet: readonly SheetEntry[] = keyed.fields.map(({ id, type }) => ({
  field: id,
  role: id !== 'n' && ['whole', 'decimal', 'float'].includes(type.kind) ? 'measure' : 'attribute',
  ...(id === 'd2' ? { addsUp: 'over everything but dates, then last' as const, lastBy: 'day1' } : {}),
}));
export const fields: readonly SheetField[] = sheetFields(keyed, sheet, []);

/** Sums of floating numbers depend on the order they are added in, and those without a fixed scale on how much of it is kept. */
export const totalled = fc
  .constantFrom('w1', 'd2', 'd6', 't1', 'day1', 'b1')
  .chain((field) =>
    fc.constantFrom<Aggregate>(...(fields.find((each) => each.id === field)?.aggregates ?? [])).map((aggregate) => ({ field, aggregate })),
  );
/** Orders that are written, of values that are there or not, and of some that can be none. */
export const listed = fc.uniqueArray(fc.constantFrom('a', "O'Sedge", 'ä', '0', '1', '-1', 'true', 'false', '2024-02-29', 'nowhere'), {
  minLength: 1,
  maxLength: 5,
});
export const layouts: fc.Arbitrary<Layout> = fc.record(
  {
    levels: fc.uniqueArray(
      fc.record(
        {
          field: fc.constantFrom('t1', 'b1', 'day1', 'at1', 'w2', 'd2'),
          stretch: fc.constantFrom(...DAY_STRETCHES),
          descending: fc.boolean(),
          subtotal: fc.boolean(),
          ofSeveral: fc.constant(true as const),
          totalsFirst: fc.constant(true as const),
          by: totalled,
          listed,
          first: fc.integer({ min: 1, max: 3 }),
        },
        { requiredKeys: ['field', 'descending', 'subtotal'] },
      ),
      { maxLength: 3, selector: (each) => each.field },
    ),
    rows: fc.boolean(),
    grandTotal: fc.boolean(),
    grandTotalFirst: fc.constant(true as const),
    totals: fc.array(totalled, { maxLength: 4 }),
    marks: fc.subarray([
      { id: 'm1', field: 'd2', operator: 'above', operands: ['100'], look: 'boxed' as const },
      { id: 'm2', field: 't1', operator: 'one of', operands: ['a', "O'Sedge"], look: 'strong' as const },
      { id: 'm3', field: 'day1', operator: 'is null', operands: [], look: 'faint' as const },
    ]),
  },
  { requiredKeys: ['levels', 'rows', 'grandTotal', 'totals', 'marks'] },
);

const { calendar: CALENDAR } = emptyDefinition('');

/** Rows with the first day of each stretch they are grouped by, worked out in core. */
export function withStretches(read: ReadLayout, rows: readonly ReadonlyMap<string, Value>[]): readonly ReadonlyMap<string, Value>[] {
  const columns = stretchColumns(read, CALENDAR);
  return rows.map((row) => {
    const at = { now: 0n, window: () => null, field: (id: string) => row.get(id) ?? null, parameter: () => null, list: () => [] };
    return new Map([...row, ...columns.map(({ id, expression }) => [id, evaluate(expression, at)] as const)]);
  });
}

/** The statements as the server runs them: the groups are kept, then the lines are made of rows and groups. */
export async function engineCells({ engine }: Generated, read: ReadLayout) {
  const { layout } = read;
  const stored = [...keyed.fields.map(({ id, name, type }) => ({ id, name, type })), ...stretchColumns(read, CALENDAR)];
  const { groups, lines, columns } = proofRelations(layout, read.fields, stored);
  await engine.run('create or replace temp view rows as select *, n as line_row from landed order by n');
  const made = compile(groups, duckdb, UNBOUND);
  const names = made.columns.map(({ id }) => `"${id}"`).join(', ');
  await engine.run(
    `create or replace temp table groups as select * from (${made.text}) as g (${names})`,
    made.values.map((each) => each.value as string),
  );
  const { text, values } = compile(lines, duckdb, UNBOUND);
  const bound = values.map((each) => each.value as string);
  const told = await engine.runAndReadAll(`select columns(*)::varchar from (${text})`, bound);
  return { columns, cells: told.getRowsJson() as (string | null)[][] };
}

export async function engineLines(generated: Generated, read: ReadLayout): Promise<readonly NaiveLine[]> {
  const { layout } = read;
  const { columns, cells } = await engineCells(generated, read);
  return cells.map((row) => {
    const at = (id: string) => row[columns.findIndex((each) => each.id === id)] ?? null;
    const number = (id: string) => (at(id) === null ? null : Number(at(id)));
    const aggregate = number('line_aggregate');
    return {
      kind: LINE_KINDS[Number(at('line_kind'))] ?? 'row',
      level: number('line_level'),
      rows: number('line_rows'),
      aggregate: aggregate === null ? null : (AGGREGATES[aggregate] ?? null),
      row: number('line_row'),
      keys: layout.levels.map((_level, index) => (at(`rest_${index + 1}`) === 'true' ? REST : at(`key_${index + 1}`))),
      totals: layout.totals.map((_total, index) => at(`total_${index}`)),
      marks: layout.marks.map((_mark, index) => (at(`mark_${index}`) === null ? null : at(`mark_${index}`) === 'true')),
    };
  });
}
