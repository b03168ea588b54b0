import type { DuckDBConnection } from '@duckdb/node-api';
import { uniqueNames } from '@cendra/core';
import type { EngineWork, WrittenColumn, Written } from './messages';
import { isLong, source } from './reading';
import { literal, MARKS, quoted, storedText } from './stored-text';
import { writeXlsx } from './xlsx';

type Write = EngineWork & { work: 'write' };

const OPTIONS = {
  csv: `format csv, header true, quote '"', escape '"', nullstr ''`,
  json: 'format json, array true',
  ndjson: 'format json',
  parquet: 'format parquet, compression snappy',
};

/** The whole result as a file of an open format. What a format cannot hold is told. */
export async function write(connection: DuckDBConnection, task: Write): Promise<Written> {
  if (task.format === 'xlsx') return writeXlsx(connection, task);
  const value = { csv: csvValue, json: jsonValue, ndjson: jsonValue, parquet: parquetValue }[task.format];
  const names = uniqueNames(task.columns.map((each) => each.name));
  const list = task.columns.map((column, index) => `${value(column, task.marked)} as ${quoted(names[index] ?? column.name)}`);
  const rows = `select ${list.join(', ')} from ${source(task.file, false)}`;
  await connection.run(`copy (${rows}) to ${literal(task.out)} (${OPTIONS[task.format]})`);
  return { cutTexts: 0, longNumbers: 0 };
}

/** The source's own text of a value that fits no type stands in its place, where the format takes texts. */
const marked = (column: WrittenColumn, sql: string, isMarked: boolean) =>
  isMarked ? `coalesce(${sql}, json_extract_string(${MARKS}, ${literal(`$."${column.id}"`)}))` : sql;

/** Null is nothing, empty text is "". A text that a spreadsheet would take for a formula gets an apostrophe before it. */
function csvValue(column: WrittenColumn, isMarked: boolean): string {
  return marked(column, isLong(column) ? neutral(storedText(column)) : storedText(column), isMarked);
}

const neutral = (sql: string) => `case when left(${sql}, 1) in ('=', '+', '-', '@', chr(9), chr(13)) then '''' || ${sql} else ${sql} end`;

/** Numbers with all their digits, yes/no as true and false, everything else as its text. JSON has no number that is none. */
function jsonValue(column: WrittenColumn): string {
  const name = quoted(column.id);
  switch (column.type.kind) {
    case 'whole':
    case 'decimal':
      return `cast(${storedText(column)} as json)`;
    case 'float':
      return `case when isfinite(${name}) then ${name} end`;
    case 'yesno':
      return name;
    case 'json':
      return `try_cast(${name} as json)`;
    default:
      return storedText(column);
  }
}

/** Stored types as they are; a number without a fixed scale takes the one it was found to need. */
function parquetValue(column: WrittenColumn): string {
  const name = quoted(column.id);
  return column.type.kind === 'decimal' && column.type.open
    ? `try_cast(${name} as decimal(38,${Math.min(column.measuredScale ?? 0, 38)}))`
    : name;
}
