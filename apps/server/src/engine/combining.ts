import { statSync } from 'node:fs';
import type { DuckDBConnection } from '@duckdb/node-api';
import { listValue } from '@duckdb/node-api';
import type { Combined, EngineWork } from './messages';
import { rowsOf } from './landing';
import { literal, quoted } from './stored-text';

/** Values as the engine takes them: a list is one value. */
const bound = (values: (EngineWork & { work: 'rows' })['values']) =>
  values.map((each) => (typeof each === 'string' ? each : listValue([...each])));

/** Landed files become views under their handles, which the statement reads. */
async function attach(connection: DuckDBConnection, landed: (EngineWork & { work: 'combine' })['landed']): Promise<void> {
  for (const { handle, file, numbered } of landed) {
    const rows =
      numbered === undefined
        ? `select * from read_parquet(${literal(file)})`
        : `select * exclude (file_row_number), file_row_number as ${quoted(numbered)} from read_parquet(${literal(file)}, file_row_number=true)`;
    await connection.run(`create or replace view ${quoted(handle)} as ${rows}`);
  }
}

/** The rows of a statement over landed files as a Parquet file, its columns named by field id. */
export async function combine(connection: DuckDBConnection, task: EngineWork & { work: 'combine' }): Promise<Combined> {
  await attach(connection, task.landed);
  const names = task.columns.map(({ id }) => quoted(id)).join(', ');
  const cut = `select * from (${task.text}) as rows (${names}) limit ${task.most}`;
  const to = `to ${literal(task.out)} (format parquet, compression snappy)`;
  if (task.values.length === 0) {
    const [row] = await rowsOf(connection, `copy (${cut}) ${to}`);
    return { rows: Number(row?.[0]), bytes: statSync(task.out).size };
  }
  // COPY takes no bound values, so the rows are made first; the instance is the run's own.
  await connection.run(`create or replace temp table combined as ${cut}`, bound(task.values));
  const [row] = await rowsOf(connection, `copy combined ${to}`);
  await connection.run('drop table combined');
  return { rows: Number(row?.[0]), bytes: statSync(task.out).size };
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
