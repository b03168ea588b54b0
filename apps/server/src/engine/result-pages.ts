import type { DuckDBConnection } from '@duckdb/node-api';
import type { EngineWork, StoredColumn } from './messages';
import { rowsOf } from './landing';
import { numberedRows, rowsIn, STORED_AS } from './stored-rows';
import { literal, MARKS, quoted, ROW, sortKey, storedText } from './stored-text';

/** A stored result or a sorted view of it, with its row numbers and marks under the same names. */
export function source(file: string, sorted: boolean): string {
  return sorted ? rowsIn(file) : numberedRows(file, ROW);
}

export const isLong = ({ type }: StoredColumn) => type.kind === 'text' || type.kind === 'json';

/**
 * One page as JSON bytes: `[[row number, cell, …], …]`. A cell is its text, null, `{t, n}` for a text that
 * was cut (n characters in all), or `{m}` for a value that fits no type.
 */
export async function page(connection: DuckDBConnection, task: EngineWork & { work: 'page' }): Promise<Uint8Array> {
  const { marked, offset, limit } = task;
  const until = offset + limit;
  // A sorted view keeps the numbers rows had, so there its places are counted.
  const from = task.sorted ? `${rowsIn(task.file)} limit ${limit} offset ${offset}` : numberedRows(task.file, ROW, { from: offset, until });
  const cells = task.columns.flatMap((column) => {
    const sql = storedText(column);
    return isLong(column)
      ? [
          `left(${sql}, ${task.cellBytes})`,
          `case when length(${quoted(column.id)}) > ${task.cellBytes} then length(${quoted(column.id)})::varchar end`,
        ]
      : [sql];
  });
  const list = [`${ROW}::varchar`, ...cells, marked ? MARKS : 'null'];
  const rows = await rowsOf(connection, `select ${list.join(', ')} from ${from}`);
  return new TextEncoder().encode(JSON.stringify(rows.map((row) => encodeRow(row, task.columns))));
}

type Cell = string | null | { readonly t: string; readonly n: number } | { readonly m: string };

function encodeRow(row: readonly (string | null)[], columns: readonly StoredColumn[]): readonly Cell[] {
  const last = row[row.length - 1];
  const marks = typeof last === 'string' ? (JSON.parse(last) as Record<string, string | null>) : {};
  let at = 1;
  const cells = columns.map((column): Cell => {
    const text = row[at++] ?? null;
    const length = isLong(column) ? row[at++] : undefined;
    const mark = marks[column.id];
    if (typeof mark === 'string') return { m: mark };
    return typeof length === 'string' && text !== null ? { t: text, n: Number(length) } : text;
  });
  return [row[0] ?? '0', ...cells];
}

/** The whole text of one cell, up to `most` characters. */
export async function cell(connection: DuckDBConnection, task: EngineWork & { work: 'cell' }): Promise<string | null> {
  const at = Number(task.row);
  const from = numberedRows(task.file, ROW, { from: at, until: at + 1 });
  const [row] = await rowsOf(connection, `select left(${storedText(task.column)}, ${task.most}) from ${from}`);
  return row?.[0] ?? null;
}

/** A view of the result in another order, made once; nulls last, equal rows in their own order. */
export async function sort(connection: DuckDBConnection, task: EngineWork & { work: 'sort' }): Promise<null> {
  const from = source(task.file, false);
  const order = task.sort.flatMap(({ field, descending }) => {
    const column = task.columns.find((each) => each.id === field);
    if (!column) throw new RangeError('the field sorted by was checked before');
    return sortKey(column)
      .split(/, (?=try_cast)/)
      .map((key) => `${key} ${descending ? 'desc' : 'asc'} nulls last`);
  });
  await connection.run(`copy (select * from ${from} order by ${[...order, ROW].join(', ')}) to ${literal(task.out)} (${STORED_AS})`);
  return null;
}
