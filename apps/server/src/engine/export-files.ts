import type { DuckDBConnection } from '@duckdb/node-api';
import { isLong, isOpen, markBeside, uniqueNames } from '@cendra/core';
import { csvName } from './csv-name';
import type { EngineWork, WrittenColumn, Written } from './messages';
import { rowsOf } from './landing';
import { source } from './result-pages';
import { literal, markOf, quoted, ROW, storedText } from './stored-text';
import { writeXlsx } from './xlsx';

type Write = EngineWork & { work: 'write' };

/** A line of JSON has neither line ends nor tabs of its own, so it stands alone without quotes. */
const LINES = "format csv, header false, delim '\t', quote '', escape ''";

/** The whole result as a file of an open format. What a format cannot hold is told. */
export async function write(connection: DuckDBConnection, task: Write): Promise<Written> {
  const { format } = task;
  if (format === 'xlsx') return writeXlsx(connection, task);
  const from = source(task.file, false);
  const [rows, options] =
    format === 'parquet'
      ? await parquetRows(connection, task, from)
      : TEXT_ROWS[format](task, uniqueNames(task.columns.map((each) => each.name)), from);
  await connection.run(`copy (${rows}) to ${literal(task.out)} (${options})`);
  return { cutTexts: 0, longNumbers: 0 };
}

type Copied = readonly [rows: string, options: string];
type Rows = (task: Write, names: readonly string[], from: string) => Copied;

const listed = ({ columns }: Write, names: readonly string[], value: (column: WrittenColumn) => string) =>
  columns.map((column, index) => `${value(column)} as ${quoted(names[index] ?? column.name)}`).join(', ');

const csvRows: Rows = (task, names, from) => [
  `select ${listed(task, names.map(csvName), (column) => csvValue(column, task.marked))} from ${from}`,
  `format csv, header true, quote '"', escape '"', nullstr ''`,
];

/**
 * Stored types as they are. Numbers without a fixed scale are decimals where all of a column fit one, else texts; of a field
 * with values that fit no type those stand as texts in a column beside it. So nothing is left out, and nothing rounded.
 */
async function parquetRows(connection: DuckDBConnection, task: Write, from: string): Promise<Copied> {
  const asked = task.columns.flatMap((column): readonly (readonly [string, string])[] => [
    ...(isOpen(column.type) ? [[column.id, `bool_and(${quoted(column.id)} is null or ${fitting(column)} is not null)`] as const] : []),
    ...(task.marked ? [[markBeside(column.id).id, `count(${markOf(column.id)}) > 0`] as const] : []),
  ]);
  const [row = []] =
    asked.length === 0 ? [] : await rowsOf(connection, `select ${asked.map(([, sql]) => `(${sql})::varchar`).join(', ')} from ${from}`);
  const holds = new Map(asked.map(([id], index) => [id, row[index] === 'true']));
  const columns = task.columns.flatMap((column) => [
    { name: column.name, sql: isOpen(column.type) && holds.get(column.id) === true ? fitting(column) : quoted(column.id) },
    ...(holds.get(markBeside(column.id).id) === true ? [{ name: `${column.name} as it is kept`, sql: markOf(column.id) }] : []),
  ]);
  const names = uniqueNames(columns.map((each) => each.name));
  const list = columns.map(({ sql, name }, index) => `${sql} as ${quoted(names[index] ?? name)}`);
  // What the rows are goes with them, as its own pairs of words.
  const about = task.about.map(([word, said]) => `${quoted(word)}: ${literal(said)}`).join(', ');
  return [`select ${list.join(', ')} from ${from}`, `format parquet, compression snappy, kv_metadata {${about}}`];
}

const MOST_DIGITS = 38;

/** A number without a fixed scale with the scale its column was found to need; null where it does not fit. */
const fitting = ({ id, measuredScale = 0 }: WrittenColumn): string =>
  measuredScale > MOST_DIGITS ? 'null' : `try_cast(${quoted(id)} as decimal(${MOST_DIGITS},${measuredScale}))`;

/**
 * An object per line, written as text: the engine's own JSON turns decimals into floating numbers, and ours keep all
 * their digits.
 */
const jsonLines: Rows = (task, names, from) => [`select ${objectOf(task, names)} from ${from}`, LINES];
const jsonRows: Rows = (task, names, from) => [
  `select '[' union all select case when ${ROW} > 0 then ',' else '' end || ${objectOf(task, names)} from ${from} union all select ']'`,
  LINES,
];

const TEXT_ROWS = { csv: csvRows, json: jsonRows, ndjson: jsonLines };

function objectOf({ columns, marked: isMarked }: Write, names: readonly string[]): string {
  const members = columns.map((column, index) => {
    const key = JSON.stringify(names[index] ?? column.name);
    return `${literal(`${index === 0 ? '' : ','}${key}:`)} || coalesce(${jsonValue(column)}, ${isMarked ? `to_json(${markOf(column.id)})::varchar, ` : ''}'null')`;
  });
  return `'{' || ${members.join(' || ')} || '}'`;
}

/** The source's own text of a value that fits no type stands in its place, where the format takes texts. */
const marked = (column: WrittenColumn, sql: string, isMarked: boolean) => (isMarked ? `coalesce(${sql}, ${markOf(column.id)})` : sql);

/** Null is nothing, empty text is "". A text that a spreadsheet would take for a formula gets an apostrophe before it. */
function csvValue(column: WrittenColumn, isMarked: boolean): string {
  return marked(column, isLong(column) ? neutral(storedText(column)) : storedText(column), isMarked);
}

const neutral = (sql: string) => `case when left(${sql}, 1) in ('=', '+', '-', '@', chr(9), chr(13)) then '''' || ${sql} else ${sql} end`;

/** A value as JSON text: numbers with all their digits, yes/no as true and false, everything else as a string. */
function jsonValue(column: WrittenColumn): string {
  const name = quoted(column.id);
  const text = storedText(column);
  switch (column.type.kind) {
    case 'whole':
    case 'decimal':
    case 'yesno':
      return text;
    case 'float':
      return `case when isfinite(${name}) then ${text} else to_json(${text})::varchar end`;
    case 'json':
      return `case when json_valid(${name}) then replace(replace(${name}, chr(10), ' '), chr(9), ' ') else to_json(${name})::varchar end`;
    default:
      return `to_json(${text})::varchar`;
  }
}
