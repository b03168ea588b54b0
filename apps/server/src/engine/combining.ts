import { statSync } from 'node:fs';
import type { DuckDBConnection } from '@duckdb/node-api';
import { listValue } from '@duckdb/node-api';
import { markBeside } from '@cendra/core';
import type { Combined, EngineWork, LandedFile } from './messages';
import { countMarks, measure, rowsOf, withoutSign } from './landing';
import { numberedRows, rowsIn, STORED_AS } from './stored-rows';
import { literal, markOf, MARKS, quoted } from './stored-text';

/** Values as the engine takes them: a list is one value. */
const bound = (values: (EngineWork & { work: 'rows' })['values']) =>
  values.map((each) => (typeof each === 'string' ? each : listValue([...each])));

/** Landed files become views under their handles, which the statement reads. */
async function attach(connection: DuckDBConnection, landed: readonly LandedFile[]): Promise<void> {
  for (const { handle, file, numbered, marked = [] } of landed) {
    const marks = marked.map((id) => `, ${markOf(id)} as ${quoted(markBeside(id).id)}`).join('');
    const rows = numbered === undefined ? `select *${marks} from ${rowsIn(file)}` : `select *${marks} from ${numberedRows(file, numbered)}`;
    await connection.run(`create or replace view ${quoted(handle)} as ${rows}`);
  }
}

/** The rows of a statement over landed files as a Parquet file, its columns named by field id, with the marks they carried along. */
export async function combine(connection: DuckDBConnection, task: EngineWork & { work: 'combine' }): Promise<Combined> {
  await attach(connection, task.landed);
  const names = task.columns.map(quoted).join(', ');
  const kept = task.fields.map(({ id, type }) => (type.kind === 'float' ? `${withoutSign(quoted(id))} as ${quoted(id)}` : quoted(id)));
  const list = [...kept, ...(task.marked.length > 0 ? [`${marksTogether(task.marked)} as ${MARKS}`] : [])].join(', ');
  const cut = `select ${list} from (${task.text}) as rows (${names}) limit ${task.most}`;
  const to = `to ${literal(task.out)} (${STORED_AS})`;
  const rows = await written(connection, cut, to, bound(task.values));
  const misfits = task.marked.length > 0 ? await countMarks(connection, task.out, task.marked) : {};
  const measured = await measure(connection, task.out, task.fields);
  return { rows, bytes: statSync(task.out).size, marked: task.marked.length > 0, misfits, measured };
}

async function written(connection: DuckDBConnection, select: string, to: string, values: ReturnType<typeof bound>): Promise<number> {
  if (values.length === 0) {
    const [row] = await rowsOf(connection, `copy (${select}) ${to}`);
    return Number(row?.[0]);
  }
  // COPY takes no bound values, so the rows are made first; the instance is the run's own.
  await connection.run(`create or replace temp table combined as ${select}`, values);
  const [row] = await rowsOf(connection, `copy combined ${to}`);
  await connection.run('drop table combined');
  return Number(row?.[0]);
}

/** The marks of a row as one JSON text, as landing writes them; null where it has none. */
function marksTogether(marked: readonly string[]): string {
  const columns = marked.map((id) => quoted(markBeside(id).id));
  const some = columns.map((each) => `${each} is not null`).join(' or ');
  const members = marked.map((id, at) => `${literal(id)}, ${columns[at]}`).join(', ');
  return `case when ${some} then cast(json_object(${members}) as varchar) end`;
}

/** A few rows of a statement over landed files, such as counts, as texts. */
export async function smallRows(
  connection: DuckDBConnection,
  task: EngineWork & { work: 'rows' },
): Promise<readonly (readonly (string | null)[])[]> {
  await attach(connection, task.landed);
  const reader = await connection.runAndReadAll(task.text, bound(task.values));
  return (reader.getRowsJson() as (string | number | null)[][]).map((row) => row.map((cell) => (cell === null ? null : String(cell))));
}
