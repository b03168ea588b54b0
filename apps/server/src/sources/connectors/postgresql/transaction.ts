import type { Client, QueryArrayConfig, QueryArrayResult } from 'pg';
import { ProblemException } from '../../../problems';
import type { Admitted } from '../connector';
import { answering, closeQuietly, freshConnection } from './connect';
import { statementProblem } from './errors';
import { IDENTITY, knowOwn, refuseOwn } from './own-server';
import type { PostgresqlSettings } from './settings';

/** A snapshot that is open already, as the source names it to other connections. */
export interface Exported {
  readonly id: string;
  readonly asOf: Date;
}

export interface Opening {
  readonly exported?: Exported;
  readonly admitted?: Admitted | undefined;
}

/** A transaction that is open: by which number others can stop what runs in it, and of which moment it is. */
export interface Opened {
  readonly pid: string;
  readonly asOf: Date;
}

/** Sent so that the server refuses a text that holds several statements; the driver's types leave the setting out. */
export const alone = (text: string) => ({ text, rowMode: 'array', queryMode: 'extended' }) as QueryArrayConfig;

/**
 * The path of a session in which temp tables are made: what the system has comes first, so that none of them takes the
 * place of a catalogue or a type; then they come, before the source's own tables.
 */
export const TEMPS_PATH = `set local search_path = pg_catalog, pg_temp, "$user", public;`;

/**
 * A repeatable-read transaction on a fresh connection, of now or of a snapshot that is open, with what is said in it at once.
 * One that may write is for making temp objects, and nothing else.
 */
export async function openTransaction(
  settings: PostgresqlSettings,
  secret: string,
  { may, then = '' }: { readonly may: 'read only' | 'read write'; readonly then?: string },
  signal?: AbortSignal,
  exported?: Exported,
): Promise<Opened & { readonly client: Client }> {
  knowOwn();
  const client = await freshConnection(settings, secret);
  try {
    const taken = exported ? `set transaction snapshot '${exported.id.replaceAll("'", "''")}';` : '';
    // One way there and back for all of it.
    const begin = `begin transaction isolation level repeatable read ${may}; ${taken} ${may === 'read write' ? TEMPS_PATH : ''}`;
    const text = `${begin} select pg_backend_pid(), clock_timestamp(), ${IDENTITY}; ${then}`;
    const asked = await answering(client, () => client.query({ text, rowMode: 'array' }), signal);
    const answers = asked as unknown as readonly QueryArrayResult<[string, string, string]>[];
    const [pid, asOf, identity] = answers.find(({ command }) => command === 'SELECT')?.rows[0] ?? ['0', ''];
    await refuseOwn(identity);
    const now = new Date(asOf.replace(' ', 'T').replace(/\+00$/, 'Z'));
    return { client, pid, asOf: exported?.asOf ?? now };
  } catch (error) {
    await closeQuietly(client);
    throw error instanceof ProblemException ? error : statementProblem(error);
  }
}
