import type { Cendra } from './cendra';
import { postgresqlAt } from './cendra';
import { cluster, unique, withSuperuser } from './cluster';

export interface OwnReader {
  readonly user: string;
  /** A source of the demo's database that is read under this role. */
  readonly source: string;
  /** How many of its sessions at the database are not idle. */
  atWork(): Promise<number>;
}

/**
 * A role that reads the demo's database for one test file, so that its sessions are told from those of files
 * that run beside it; and the source that uses it, open to the demo's analyst.
 */
export async function ownReader(cendra: Cendra): Promise<OwnReader> {
  const user = unique('reader');
  await withSuperuser('postgres', (client) =>
    client.query(`create role ${user} login password '${cluster.demoPassword}' in role cendra_read`),
  );
  return { user, source: await sourceAs(cendra, user, cluster.port), atWork: () => sessionsOf(user) };
}

/** The demo's database as a source, reached by a role through a port. */
export async function sourceAs(cendra: Cendra, user: string, port: number): Promise<string> {
  const steward = await cendra.signIn('steward');
  const analyst = await cendra.signIn('analyst');
  const made = await steward.post<{ id: string }>('/sources', { name: unique('source'), mark: 'so', ...postgresqlAt({ port, user }) });
  await steward.ask('PUT', `/sources/${made.id}/access`, { people: [analyst.id] });
  return made.id;
}

const sessionsOf = (user: string) =>
  withSuperuser('postgres', async (client) => {
    const text = "select count(*) n from pg_stat_activity where usename = $1 and state <> 'idle'";
    return Number((await client.query<{ n: string }>(text, [user])).rows[0]?.n);
  });
