import type { ClientBase } from 'pg';
import { ownDatabaseIsNoSource } from '../../../problems';

/** What a database says of itself: when its server was started, to the microsecond, and its number there. However it is reached, it is this. */
export const IDENTITY = `pg_catalog.pg_postmaster_start_time()::text || ' ' || (select oid from pg_catalog.pg_database where datname = pg_catalog.current_database())`;

let own: () => Promise<string | undefined> = () => Promise.resolve(undefined);

/** From here on no connection to the database that `ask` asks is used: it is Cendra's own. */
export function guardOwn(ask: (text: string) => Promise<string | undefined>): void {
  own = () => ask(`select ${IDENTITY}`);
}

export async function refuseOwn(identity: string | undefined): Promise<void> {
  if (identity === undefined || identity !== (await own())) return;
  throw ownDatabaseIsNoSource();
}

export async function refuseOwnOf(client: ClientBase): Promise<void> {
  const { rows } = await client.query<[string]>({ text: `select ${IDENTITY}`, rowMode: 'array' });
  await refuseOwn(rows[0]?.[0]);
}
