import { statSync } from 'node:fs';
import type { DuckDBConnection } from '@duckdb/node-api';
import { duckdbTypeName, isLength, isOpen } from '@cendra/core';
import type { EngineWork, Landed, StoredColumn } from './messages';
import { STORED_AS } from './stored-rows';
import { literal, markOf, MARKS, quoted } from './stored-text';

type Land = EngineWork & { work: 'land' };

/**
 * CSV of the source's text to Parquet. First as if every value fits its type, which nearly always holds
 * and is fast; when one does not, again with every value read as text, converted where it can be and
 * kept as a mark where it cannot. DuckDB reads `0044-03-15 BC` as a date after Christ and `infinity` as a
 * timestamp, and goes on beyond the year 9999, so those are checked for.
 */
export async function land(connection: DuckDBConnection, task: Land): Promise<Landed> {
  const fits = await tryPlain(connection, task);
  if (!fits && (await copy(connection, carefulSelect(task), task.out)).rows !== task.rows)
    throw new Error('rows were lost between the source and the store');
  const ids = task.columns.map((each) => each.id);
  const misfits = fits ? {} : await countMarks(connection, task.out, ids);
  const measured = await measure(connection, task.out, task.columns);
  return { bytes: statSync(task.out).size, marked: !fits, misfits, measured };
}

async function tryPlain(connection: DuckDBConnection, task: Land): Promise<boolean> {
  try {
    const timed = task.columns.flatMap(({ id, type }) => (type.kind === 'datetime' || type.kind === 'instant' ? [quoted(id)] : []));
    const { rows, extremes } = await copy(connection, plainSelect(task), task.out);
    return rows === task.rows && !timed.some((id) => extremes.get(id)?.some((each) => each.endsWith('infinity') || /^\d{5}/.test(each)));
  } catch (error) {
    if (error instanceof Error && /conversion|could not convert|error when converting|misfit/i.test(error.message)) return false;
    throw error;
  }
}

interface Copied {
  readonly rows: number;
  /** The smallest and the largest value of each column, by its quoted name, as far as the file's statistics have them. */
  readonly extremes: ReadonlyMap<string, readonly string[]>;
}

async function copy(connection: DuckDBConnection, select: string, out: string): Promise<Copied> {
  const reader = await connection.runAndReadAll(
    `copy (${select}) to ${literal(out)} (${STORED_AS}, row_group_size ${ROW_GROUP}, return_stats true)`,
  );
  const [row] = reader.getRowObjectsJson() as unknown as [
    { count: string; column_statistics: readonly { key: string; value: readonly { key: string; value: string }[] }[] } | undefined,
  ];
  const extremes = (row?.column_statistics ?? []).map(
    ({ key, value }) => [key, value.flatMap((each) => (each.key === 'min' || each.key === 'max' ? [each.value] : []))] as const,
  );
  return { rows: Number(row?.count), extremes: new Map(extremes) };
}

/** Rows of one part that are written and read together: all of them, as parts are small. */
const ROW_GROUP = 1_000_000;

/** The longest line, in bytes, that the reader of CSV takes without being told; a longer one ends the reading. */
const USUAL_LINE = 2_000_000;

/** Read by one thread: a second one costs more than it saves, and the source, which is the slower side, needs the processor too. */
function readCsv(task: Land, typeOf: (column: StoredColumn) => string): string {
  const columns = task.columns.map((column) => `${literal(column.id)}: '${typeOf(column)}'`);
  if (task.from.filler) columns.push("'cendra_filler': 'varchar'");
  const line = task.from.longestRow + 1_024;
  const size = line > USUAL_LINE ? `, max_line_size=${line}, buffer_size=${line * 2}` : '';
  return `read_csv(${literal(task.from.file)}, header=false, auto_detect=false, delim=',', quote='"', escape='"', nullstr='', allow_quoted_nulls=false, parallel=false, columns={${columns.join(', ')}}${size})`;
}

const isDate = (column: StoredColumn) => column.type.kind === 'date';

/** What a number without a fixed scale, which is kept as its text, may be in a source besides a number. */
const NO_NUMBERS = ['NaN', 'Infinity', '-Infinity'].map(literal).join(', ');

function plainSelect(task: Land): string {
  const list = task.columns.map((column) => {
    const name = quoted(column.id);
    if (column.type.kind === 'float') return `${withoutSign(name)} as ${name}`;
    if (isOpen(column.type)) return `case when ${name} in (${NO_NUMBERS}) then error('misfit') else ${name} end as ${name}`;
    return isDate(column)
      ? `case when ${name} is null then null when length(${name}) = 10 then cast(${name} as date) else error('misfit') end as ${name}`
      : name;
  });
  return `select ${list.join(', ')} from ${readCsv(task, (column) => (isDate(column) ? 'varchar' : duckdbTypeName(column.type)))}`;
}

function carefulSelect(task: Land): string {
  const converted = task.columns.map((column) => `${conversion(column)} as ${quoted(column.id)}`);
  const checked = task.columns.filter((column) => conversion(column) !== quoted(column.id));
  const bad = checked.map((column) => `(${quoted(column.id)} is not null and (${conversion(column)}) is null)`);
  const marks = checked.map((column, index) => `${literal(column.id)}, case when ${bad[index]} then ${quoted(column.id)} end`);
  const mark =
    checked.length > 0
      ? `case when ${bad.join(' or ')} then cast(json_object(${marks.join(', ')}) as varchar) end`
      : 'cast(null as varchar)';
  return `select ${converted.join(', ')}, ${mark} as ${MARKS} from ${readCsv(task, () => 'varchar')}`;
}

/** Zero has no sign: the store takes both zeros for one, and would give either for the other. */
export const withoutSign = (float: string) => `${float} + 0`;

function conversion(column: StoredColumn): string {
  const name = quoted(column.id);
  const type = duckdbTypeName(column.type);
  if (isOpen(column.type)) return `case when ${name} not in (${NO_NUMBERS}) then ${name} end`;
  if (type === 'varchar') return name;
  if (column.type.kind === 'float') return withoutSign(`try_cast(${name} as ${type})`);
  if (isDate(column)) return `try_cast(case when length(${name}) = 10 then ${name} end as date)`;
  if (column.type.kind === 'datetime' || column.type.kind === 'instant')
    return `try_cast(case when ${name} like '____-%' and ${name} not like '%BC' then ${name} end as ${type})`;
  return `try_cast(${name} as ${type})`;
}

/** How many values of each field are kept as marks; fields without any are left out. */
export async function countMarks(connection: DuckDBConnection, file: string, ids: readonly string[]): Promise<Record<string, number>> {
  const counts = ids.map((id) => `count(${markOf(id)})::varchar`);
  const [row = []] = await rowsOf(connection, `select ${counts.join(', ')} from read_parquet(${literal(file)}) where ${MARKS} is not null`);
  const pairs = ids.map((id, index) => [id, Number(row[index] ?? 0)] as const);
  return Object.fromEntries(pairs.filter(([, count]) => count > 0));
}

/**
 * Numbers without a fixed scale stay their own text: the most decimals met is noted, to sort by. Of lengths, the largest:
 * whether some text was cut.
 */
export async function measure(
  connection: DuckDBConnection,
  file: string,
  columns: readonly StoredColumn[],
): Promise<Record<string, number>> {
  const open = columns.filter(({ id, type }) => isOpen(type) || isLength(id));
  if (open.length === 0) return {};
  const scales = open.map(({ id }) =>
    isLength(id) ? `coalesce(max(${quoted(id)}), 0)::varchar` : `coalesce(max(length(split_part(${quoted(id)}, '.', 2))), 0)::varchar`,
  );
  const [row = []] = await rowsOf(connection, `select ${scales.join(', ')} from read_parquet(${literal(file)})`);
  return Object.fromEntries(open.map(({ id }, index) => [id, Number(row[index] ?? 0)]));
}

export async function rowsOf(connection: DuckDBConnection, sql: string): Promise<readonly (string | null)[][]> {
  const reader = await connection.runAndReadAll(sql);
  return reader.getRowsJson() as (string | null)[][];
}
