import type { ProofRelations, Relation } from '@cendra/core';
import { compile, duckdb } from '@cendra/core';
import type { Generated } from './generated';

/** What relations give in the engine that holds the generated rows. */

const UNBOUND = { bound: new Map(), now: 0n };

/** Keeps what a relation gives as a table of the engine. */
export async function kept(generated: Generated, name: string, relation: Relation): Promise<void> {
  const { text, values, columns } = compile(relation, duckdb, UNBOUND);
  const names = columns.map(({ id }) => `"${id}"`).join(', ');
  const bound = values.map((each) => each.value as string);
  await generated.engine.run(`create or replace temp table "${name}" as select * from (${text}) as t (${names})`, bound);
}

/** What a relation gives, in wire form. */
export async function rowsGiven(generated: Generated, relation: Relation): Promise<readonly (readonly (string | null)[])[]> {
  const { text, values } = compile(relation, duckdb, UNBOUND);
  const bound = values.map((each) => each.value as string);
  return (await generated.engine.runAndReadAll(`select columns(*)::varchar from (${text})`, bound)).getRowsJson() as (string | null)[][];
}

/** The generated rows under the handle and with the numbers results have. */
export const rowsKept = ({ engine }: Generated) =>
  engine.run('create or replace temp view rows as select *, n as line_row from landed order by n');

/** The statements of lines as the server runs them, but the last, which gives them. */
export async function groupsKept(generated: Generated, made: ProofRelations): Promise<void> {
  for (const { handle, groups } of made.landed) await kept(generated, handle, groups);
  await kept(generated, 'groups', made.groups);
}
