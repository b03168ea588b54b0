import type { DuckDBConnection } from '@duckdb/node-api';
import { isOpen, openKey } from '@cendra/core';
import type { EngineWork, Extent, Found, Profile, StoredColumn } from './messages';
import { rowsOf } from './landing';
import { source } from './result-pages';
import { rowsIn } from './stored-rows';
import { literal, quoted, ROW, storedText } from './stored-text';

/** Where a text stands, without regard to case, in any of the columns: the next place from a position on, and in how many rows. */
export async function find(connection: DuckDBConnection, task: EngineWork & { work: 'find' }): Promise<Found> {
  const searched = task.columns.map((column) => `contains(lower(${storedText(column)}), lower($1))`);
  const position = task.sorted ? 'file_row_number' : ROW;
  const from = task.sorted ? `read_parquet(${literal(task.file)}, file_row_number=true)` : source(task.file, false);
  const reader = await connection.runAndReadAll(
    `select (min(${position}) filter (where ${position} >= ${task.from}))::varchar, min(${position})::varchar, count(*)::varchar from ${from} where ${searched.join(' or ') || 'false'}`,
    [task.text],
  );
  const [row = []] = reader.getRowsJson() as (string | null)[][];
  const [next = null, first = null, rows = '0'] = row;
  return { next: next === null ? null : Number(next), first: first === null ? null : Number(first), rows: Number(rows) };
}

const TOP = 8;
const STEPS = 20;

const isNumber = ({ type }: StoredColumn) => ['whole', 'decimal', 'float'].includes(type.kind);
const isTimed = ({ type }: StoredColumn) => ['date', 'datetime', 'instant'].includes(type.kind);

/** The column as a value that can be counted with; of a number without a fixed scale, which is kept as its text, roughly. */
function comparable(column: StoredColumn): string {
  const name = quoted(column.id);
  const finite = (value: string) => `case when isfinite(${value}) then ${value} end`;
  return isOpen(column.type) ? finite(`try_cast(${name} as double)`) : column.type.kind === 'float' ? finite(name) : name;
}

/** How the values of a field are spread over all stored rows. */
export async function profile(connection: DuckDBConnection, { file, column }: EngineWork & { work: 'profile' }): Promise<Profile> {
  const from = source(file, false);
  const name = quoted(column.id);
  const value = comparable(column);
  const text = storedText({ ...column, id: 'v' });
  const empty = column.type.kind === 'text' ? `count(*) filter (where ${name} = '')` : '0';
  const mean = isNumber(column) ? meanOf(column, value) : 'null';
  const ordered = column.type.kind !== 'json' && column.type.kind !== 'yesno';
  const open = isOpen(column.type);
  const key = open ? openKey(name) : name;
  const extreme = (which: 'min' | 'max') => (ordered ? (open ? `arg_${which}(${name}, ${key})` : `${which}(${value})`) : 'null');
  const end = (id: 'least' | 'greatest') => (ordered ? `left(${storedText({ ...column, id })}, 200)` : 'null');
  const [summary = []] = await rowsOf(
    connection,
    `select rows::varchar, nulls::varchar, empty::varchar, distinct_ones::varchar, ${end('least')}, ${end('greatest')}, mean
     from (select count(*) as rows, count(*) - count(${name}) as nulls, ${empty} as empty, count(distinct ${key}) as distinct_ones,
       ${extreme('min')} as least, ${extreme('max')} as greatest, ${mean} as mean from ${from})`,
  );
  // Of equal numbers that are written differently the shortest stands for all.
  const shown = open ? `arg_min(${name}, length(${name}))` : name;
  const top = await rowsOf(
    connection,
    `select left(${text}, 200), n::varchar from (select ${shown} as v, count(*) as n from ${from} group by ${key} order by n desc, v limit ${TOP})`,
  );
  const [rows = '0', nulls = '0', empties = '0', distinct = '0', least = null, greatest = null, average = null] = summary;
  return {
    rows: rows ?? '0',
    nulls: nulls ?? '0',
    empty: empties ?? '0',
    distinct: distinct ?? '0',
    least,
    greatest,
    mean: average,
    top: top.map(([each = null, count]) => ({ value: each, rows: count ?? '0' })),
    spread: isNumber(column) || isTimed(column) ? await spread(connection, column, from) : [],
  };
}

/** Digits whose sum over any number of stored rows the engine holds. */
const SUMMABLE = 28;

/** The mean to six decimals, as text: from the exact sum, or from floating numbers where a sum might not fit. */
function meanOf({ type }: StoredColumn, value: string): string {
  if (type.kind === 'float') return `cast(avg(${value}) as varchar)`;
  const summable = type.kind === 'whole' || (type.kind === 'decimal' && !type.open && type.precision <= SUMMABLE);
  const sum = summable ? `cast(sum(${value}) as double)` : `sum(cast(${value} as double))`;
  return `cast(round(${sum} / nullif(count(${value}), 0), 6) as varchar)`;
}

async function spread(connection: DuckDBConnection, column: StoredColumn, from: string): Promise<Profile['spread']> {
  const value = isNumber(column) ? `cast(${comparable(column)} as double)` : `epoch(cast(${quoted(column.id)} as timestamp))`;
  const values = `(select ${value} as v from ${from})`;
  const rows = await rowsOf(
    connection,
    `with ends as (select min(v) as low, max(v) as high from ${values} where isfinite(v))
     select least(floor((v - low) / nullif(high - low, 0) * ${STEPS}), ${STEPS - 1})::integer as step, count(*)::varchar, any_value(low)::varchar, any_value(high)::varchar
     from ${values}, ends where isfinite(v) and high > low group by 1 order by 1`,
  );
  const [first] = rows;
  if (!first) return [];
  const [low, high] = [Number(first[2]), Number(first[3])];
  const counts = new Map(rows.map(([step, count]) => [Number(step), Number(count)]));
  const at = (step: number) => low + ((high - low) * step) / STEPS;
  const shown = (number: number) => (isNumber(column) ? String(number) : new Date(number * 1_000).toISOString().slice(0, 10));
  return Array.from({ length: STEPS }, (_, step) => ({ from: shown(at(step)), until: shown(at(step + 1)), rows: counts.get(step) ?? 0 }));
}

/** What is needed to give columns a width that fits: read from the stored values, not from what happens to be in sight. */
export async function extent(connection: DuckDBConnection, { file, columns }: EngineWork & { work: 'extent' }): Promise<Extent> {
  if (columns.length === 0) return [];
  const list = columns.map((column) => {
    const name = quoted(column.id);
    if (column.type.kind === 'text' || column.type.kind === 'json' || (column.type.kind === 'decimal' && column.type.open))
      return `max(length(${name}))::varchar`;
    // The least whole number has no opposite among whole numbers.
    const value = column.type.kind === 'whole' ? `cast(${name} as hugeint)` : comparable(column);
    return isNumber(column) ? `cast(max(abs(${value})) as varchar)` : 'null';
  });
  const [row = []] = await rowsOf(connection, `select ${list.join(', ')} from ${rowsIn(file)}`);
  return row;
}
