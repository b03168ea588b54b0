import type { ClientBase } from 'pg';
import { ownDatabaseIsNoSource } from '../../../problems';

/** What a database says of itself: when its server was started, to the microsecond, and its number there. However it is reached, it is this. */
export const IDENTITY = `pg_catalog.pg_postmaster_start_time()::text || ' ' || (select oid from pg_catalog.pg_database where datname = pg_catalog.current_database())`;

let ask: () => Promise<string | undefined> = () => Promise.resolve(undefined);
let known: { readonly identity: Promise<string | undefined>; readonly at: number } | undefined;
/** A server that is started again is another one: so long what it said is not asked anew, in ms. */
const KNOWN_FOR = 2_000;

/** From here on no connection to the database that `asked` asks is used: it is Cendra's own. */
export function guardOwn(asked: (text: string) => Promise<string | undefined>): void {
  ask = () => asked(`select ${IDENTITY}`);
  known = undefined;
}

function own(): Promise<string | undefined> {
  if (known && Date.now() - known.at < KNOWN_FOR) return known.identity;
  const identity = ask();
  known = { identity, at: Date.now() };
  identity.catch(() => (known = undefined));
  return identity;
}

/** Asks ahead, while something else is waited for. */
export const knowOwn = (): void => void own().catch(() => undefined);

export async function refuseOwn(identity: string | undefined): Promise<void> {
  if (identity === undefined || identity !== (await own())) return;
  throw ownDatabaseIsNoSource();
}

export async function refuseOwnOf(client: ClientBase): Promise<void> {
  const { rows } = await client.query<[string]>({ text: `select ${IDENTITY}`, rowMode: 'array' });
  await refuseOwn(rows[0]?.[0]);
}
