import type { DuckDBConnection } from '@duckdb/node-api';
import { isLong, lengthOf } from '@cendra/core';
import type { CellText, EngineWork, StoredColumn } from './messages';
import { rowsOf } from './landing';
import { numberedRows, rowsIn, STORED_AS } from './stored-rows';
import { literal, MARKS, quoted, ROW, sortKeys, storedText } from './stored-text';

/** A stored result or a sorted view of it, with its row numbers and marks under the same names. */
export function source(file: string, sorted: boolean): string {
  return sorted ? rowsIn(file) : numberedRows(file, ROW);
}

/** A page of many long cells shows less of each. */
const LEAST_OF_CELL = 64;

/**
 * One page as JSON bytes, as many rows of it as go into the bytes it may have, one at least: `[[row number, cell, …], …]`. A cell is its text, null, `{t, n}` for a text that
 * was cut (n characters in all), or `{m}` for a value that fits no type.
 */
export async function page(connection: DuckDBConnection, task: EngineWork & { work: 'page' }): Promise<Uint8Array> {
  const { marked, offset, limit } = task;
  const shown = Math.max(LEAST_OF_CELL, Math.min(task.cellBytes, Math.floor(task.pageBytes / (limit * Math.max(1, task.columns.length)))));
  const until = offset + limit;
  // A sorted view keeps the numbers rows had, so there its places are counted.
  const from = task.sorted ? `${rowsIn(task.file)} limit ${limit} offset ${offset}` : numberedRows(task.file, ROW, { from: offset, until });
  const cells = task.columns.flatMap((column) => {
    const sql = storedText(column);
    return isLong(column)
      ? [beginning(sql, lengthIn(column), shown), `case when ${lengthIn(column)} > ${shown} then ${lengthIn(column)}::varchar end`]
      : [storedText(column)];
  });
  const list = [`${ROW}::varchar`, ...cells, marked ? MARKS : 'null'];
  const rows = await rowsOf(connection, `select ${list.join(', ')} from ${from}`);
  return encoded(rows, task);
}

function encoded(rows: readonly (readonly (string | null)[])[], { columns, pageBytes }: EngineWork & { work: 'page' }): Uint8Array {
  const written: string[] = [];
  let bytes = 2;
  for (const row of rows) {
    const text = JSON.stringify(encodeRow(row, columns));
    bytes += Buffer.byteLength(text) + 1;
    if (bytes > pageBytes && written.length > 0) break;
    written.push(text);
  }
  return new TextEncoder().encode(`[${written.join(',')}]`);
}

/** No character is cut off its accents, nor in two. Only the beginning of a long text is looked at for that. */
const beginning = (text: string, length: string, shown: number) =>
  `case when ${length} > ${shown} then left_grapheme(left(${text}, ${4 * shown}), ${shown}) else ${text} end`;

const lengthIn = ({ id, shortened }: StoredColumn) => (shortened === true ? quoted(lengthOf(id).id) : `length(${quoted(id)})`);

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

/** The text of one cell, up to `most` characters, and how many it has. */
export async function cell(connection: DuckDBConnection, task: EngineWork & { work: 'cell' }): Promise<CellText> {
  const at = Number(task.row);
  const from = numberedRows(task.file, ROW, { from: at, until: at + 1 });
  const text = storedText(task.column);
  const length = isLong(task.column) ? lengthIn(task.column) : `length(${text})`;
  const [row] = await rowsOf(connection, `select left(${text}, ${task.most}), ${length}::varchar from ${from}`);
  return { text: row?.[0] ?? null, length: Number(row?.[1] ?? 0) };
}

/** A view of the result in another order, made once; equal rows stay in their own order. */
export async function sort(connection: DuckDBConnection, task: EngineWork & { work: 'sort' }): Promise<null> {
  await connection.run(`copy (select * from ${inOrder(task)}) to ${literal(task.out)} (${STORED_AS})`);
  return null;
}

/** Rows of a run in the order they are shown in. */
export async function order(connection: DuckDBConnection, task: EngineWork & { work: 'order' }): Promise<null> {
  const left = [ROW, ...task.leaves].map(quoted).join(', ');
  await connection.run(`copy (select * exclude (${left}) from ${inOrder(task)}) to ${literal(task.out)} (${STORED_AS})`);
  return null;
}

function inOrder({ file, columns, sort: by, language }: EngineWork & { work: 'sort' | 'order' }): string {
  const keys = by.flatMap(({ field, descending, nullsFirst }) => {
    const column = columns.find((each) => each.id === field);
    if (!column) throw new RangeError('the field sorted by was checked before');
    return sortKeys(column, language).map((key) => `${key} ${descending ? 'desc' : 'asc'} nulls ${nullsFirst === true ? 'first' : 'last'}`);
  });
  return `${source(file, false)} order by ${[...keys, ROW].join(', ')}`;
}
