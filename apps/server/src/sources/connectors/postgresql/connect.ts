import { createHash } from 'node:crypto';
import { isIP } from 'node:net';
import { Client } from 'pg';
import { LIMITS } from '../../../limits';
import { refused } from '../../../problems';
import type { PostgresqlSettings } from './settings';
import { connectionProblem } from './errors';
import { guardAnswers } from './messages';
import { refuseOwnOf } from './own-server';

/** Everything comes back as the database's own text; nothing is made a JavaScript number or date on the way. */
const AS_TEXT = { getTypeParser: () => (value: string | Buffer) => value } as never;

/** What decides which rows and texts come back, whatever the role or the database have set; a session's own come first. */
const OPTIONS = [
  'TimeZone=UTC',
  'DateStyle=ISO,YMD',
  'IntervalStyle=postgres',
  'extra_float_digits=1',
  'bytea_output=hex',
  'client_encoding=UTF8',
  // The system's own functions and operators come first, unless a path says otherwise.
  'search_path="$user",public',
  'transform_null_equals=off',
  'quote_all_identifiers=off',
  'standard_conforming_strings=on',
  'array_nulls=on',
  'xmloption=content',
  'xmlbinary=base64',
  'lc_monetary=C',
  'gin_fuzzy_search_limit=0',
  'exit_on_error=off',
  'client_connection_check_interval=1s',
  `statement_timeout=${LIMITS.statementTime.value}`,
  'lock_timeout=10s',
  'idle_in_transaction_session_timeout=120s',
  'default_transaction_read_only=on',
  // Compiling a long condition takes seconds in which neither a cancel nor a time limit is heard.
  'jit=off',
];

/** A fresh connection with the session settings every result depends on. Rejects with a ProblemException. */
export async function connect(settings: PostgresqlSettings, secret: string): Promise<Client> {
  const client = new Client({
    host: settings.host,
    port: settings.port,
    database: settings.database,
    user: settings.user,
    password: secret,
    ssl:
      settings.tls === 'off'
        ? false
        : {
            rejectUnauthorized: settings.tls === 'verified',
            ...(settings.tls === 'verified' && isIP(settings.host) === 0 ? { servername: settings.host } : {}),
          },
    connectionTimeoutMillis: LIMITS.connectTime.value,
    application_name: 'cendra',
    options: OPTIONS.map((each) => `-c ${each.replaceAll(' ', '\\ ')}`).join(' '),
    types: AS_TEXT,
    keepAlive: true,
  });
  guardAnswers(client);
  // A connection the source ends while idle raises here; the next statement reports it.
  client.on('error', () => undefined);
  try {
    await client.connect();
    return client;
  } catch (error) {
    client.end().catch(() => undefined);
    const { problem, detail } = connectionProblem(error, settings);
    throw refused(502, problem.code, problem.message, problem.place, problem.expected, detail);
  }
}

interface Spare {
  readonly client: Promise<Client>;
  readonly timer: NodeJS.Timeout;
}

/** One connection per sign-in, opened ahead and never used yet: signing in takes longer than a head run's statement. */
const spares = new Map<string, Spare>();
const SPARE_FOR = 60_000;

const keyOf = (settings: PostgresqlSettings, secret: string) =>
  createHash('sha256')
    .update(JSON.stringify([settings, secret]))
    .digest('hex');

/** A connection nobody used before: the spare one when it is still alive, else a new one. A next spare is opened in the background. */
export async function freshConnection(settings: PostgresqlSettings, secret: string): Promise<Client> {
  const key = keyOf(settings, secret);
  const spare = spares.get(key);
  spares.delete(key);
  clearTimeout(spare?.timer);
  const client = await spare?.client.catch(() => undefined);
  if (!client || !isAlive(client)) return connect(settings, secret);
  streamOf(client).ref();
  return client;
}

/** Opens the spare for the next run of the same sign-in, unless there is one. It is dropped when nobody needs it. */
export function openSpare(settings: PostgresqlSettings, secret: string): void {
  const key = keyOf(settings, secret);
  if (spares.has(key)) return;
  const client = connect(settings, secret);
  // A connection that only waits does not keep the process running.
  client.then(
    (opened) => streamOf(opened).unref(),
    () => spares.delete(key),
  );
  const timer = setTimeout(() => {
    spares.delete(key);
    client.then(closeQuietly, () => undefined);
  }, SPARE_FOR);
  timer.unref();
  spares.set(key, { client, timer });
}

function isAlive(client: Client): boolean {
  const stream = streamOf(client);
  return !stream.destroyed && stream.readable && stream.writable;
}

/** Runs `use` on a connection of its own, bounded in time, and always closes it. */
export async function withConnection<T>(settings: PostgresqlSettings, secret: string, use: (client: Client) => Promise<T>): Promise<T> {
  const client = await connect(settings, secret);
  try {
    return await answering(client, async () => {
      await refuseOwnOf(client);
      return use(client);
    });
  } finally {
    await closeQuietly(client);
  }
}

/** What is asked of a connection, cut when it is not answered in time or nobody waits for it any more. */
export async function answering<T>(client: Client, ask: () => Promise<T>, signal?: AbortSignal): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const stalled = new Promise<never>((_resolve, reject) => {
    timer = setTimeout(() => {
      destroy(client);
      reject(
        refused(504, 'source-silent', 'The source stopped answering.', {}, `an answer within ${LIMITS.idleTime.value / 1000} seconds`),
      );
    }, LIMITS.idleTime.value);
  });
  const cut = () => destroy(client);
  if (signal?.aborted) cut();
  signal?.addEventListener('abort', cut, { once: true });
  try {
    return await Promise.race([ask(), stalled]);
  } catch (error) {
    throw signal?.aborted ? refused(409, 'run-cancelled', 'The run was stopped.') : error;
  } finally {
    clearTimeout(timer);
    signal?.removeEventListener('abort', cut);
  }
}

/** Ends a connection; one that does not answer is cut after a second. */
export async function closeQuietly(client: Client): Promise<void> {
  let timer: NodeJS.Timeout | undefined;
  const cut = new Promise<void>((resolve) => {
    timer = setTimeout(() => {
      destroy(client);
      resolve();
    }, 1_000);
  });
  await Promise.race([client.end().catch(() => undefined), cut]);
  clearTimeout(timer);
}

export function destroy(client: Client): void {
  streamOf(client).destroy();
}

export function streamOf(client: Client): import('node:net').Socket {
  return (client as unknown as { connection: { stream: import('node:net').Socket } }).connection.stream;
}
