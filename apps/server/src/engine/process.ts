import { randomUUID } from 'node:crypto';
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { DuckDBConnection } from '@duckdb/node-api';
import { DuckDBInstance } from '@duckdb/node-api';
import './byte-order-marks';
import { SPILL } from './result-store';
import type { EngineReply, EngineRequest, EngineWork } from './messages';
import { ENGINE_VERSION } from './messages';
import { combine, smallRows } from './combining';
import { land } from './landing';
import { extent, find, profile } from './find-and-profile';
import { cell, order, page, sort } from './result-pages';
import { literal } from './stored-text';
import { write } from './export-files';
import { writePaper } from './paper/papers';

/** The engine's side: a process of its own that holds no secrets, works on files, and ends with its parent. */
const memory = process.env.ENGINE_MEMORY ?? '2GB';
const spill = process.env.ENGINE_SPILL ?? '20GB';
const pagesFolder = process.env.ENGINE_PAGES ?? '';

interface Working {
  readonly instance: DuckDBInstance;
  readonly connection: DuckDBConnection;
  /** Settles when what was asked of its connection before is done, which does one thing at a time. */
  turn: Promise<unknown>;
  /** Settles when its settings cannot be changed any more. */
  locked?: Promise<unknown>;
}

class UnknownRun extends Error {}

const runs = new Map<string, Working>();
const active = new Map<number, DuckDBConnection>();
const cancelled = new Set<number>();
let spare: Promise<DuckDBInstance> | undefined;
let pages: Promise<DuckDBInstance> | undefined;

/** Rows land by one thread a segment: a second one spends as much again on waiting as it helps. */
const create = () =>
  DuckDBInstance.create(':memory:', {
    threads: '1',
    memory_limit: memory,
    autoinstall_known_extensions: 'false',
    autoload_known_extensions: 'false',
  });

const spillFolderOf = (folder: string) => join(folder, SPILL);

/** An instance of its own, with what the first reading of CSV looks up looked up: that takes as long as landing a thousand rows. */
async function warmed(): Promise<DuckDBInstance> {
  const instance = await create();
  const file = join(spillFolderOf(pagesFolder), `${randomUUID()}.csv`);
  try {
    await mkdir(spillFolderOf(pagesFolder), { recursive: true });
    await writeFile(file, '');
    const connection = await instance.connect();
    const columns = "{'a': 'varchar', 'b': 'timestamptz', 'c': 'decimal(9,2)', 'd': 'bigint'}";
    await connection.run(`select * from read_csv(${literal(file)}, header=false, auto_detect=false, columns=${columns})`);
    connection.closeSync();
  } catch {
    // Then the first reading is slower; where there is no room for a file it will say so itself.
  }
  await rm(file, { force: true }).catch(() => undefined);
  return instance;
}

/** After this the instance reaches only its folder, whatever it is asked. */
async function confine(instance: DuckDBInstance, folder: string): Promise<DuckDBInstance> {
  const spillFolder = spillFolderOf(folder);
  await mkdir(spillFolder, { recursive: true });
  const connection = await instance.connect();
  await connection.run(
    [
      "set global TimeZone='UTC'",
      `set temp_directory=${literal(spillFolder)}`,
      `set max_temp_directory_size=${literal(spill)}`,
      `set allowed_directories=[${literal(folder)}]`,
      'set enable_external_access=false',
    ].join('; '),
  );
  connection.closeSync();
  return instance;
}

/** Before anything runs that was composed elsewhere: it may use both threads, and cannot change a setting. */
async function lock(instance: DuckDBInstance): Promise<DuckDBInstance> {
  const connection = await instance.connect();
  await connection.run('set threads=2; set lock_configuration=true');
  connection.closeSync();
  return instance;
}

/** So long after one was taken the next spare instance is made, in ms: the run that took it needs the processor first. */
const SPARE_AFTER = 250;

/** An instance that is made already: nobody waits for it to be loaded. Two that ask together do not get the same. */
function fresh(): Promise<DuckDBInstance> {
  const taken = spare ?? create();
  spare = undefined;
  setTimeout(() => (spare ??= warmed()), SPARE_AFTER).unref();
  return taken;
}

async function open(run: string, folder: string): Promise<null> {
  const instance = await confine(await fresh(), folder);
  runs.set(run, { instance, connection: await instance.connect(), turn: Promise.resolve() });
  return null;
}

function close(run: string): null {
  const working = runs.get(run);
  runs.delete(run);
  working?.connection.closeSync();
  working?.instance.closeSync();
  return null;
}

async function perform(id: number, task: EngineWork): Promise<unknown> {
  if (task.work === 'memory') return process.memoryUsage.rss();
  if (task.work === 'open') return open(task.run, task.folder);
  if (task.work === 'close') return close(task.run);
  if (task.work === 'land' || task.work === 'order' || task.work === 'combine' || task.work === 'rows') {
    const working = runs.get(task.run);
    // Opened in a process that died since; this one never knew the run.
    if (!working) throw new UnknownRun();
    // Segments stand each for itself, so that several are landed at once.
    if (task.work === 'land') return connected(id, working.instance, (connection) => land(connection, task));
    if (task.work === 'order') return connected(id, working.instance, (connection) => order(connection, task));
    working.locked ??= lock(working.instance);
    const mine = Promise.all([working.turn, working.locked]).then(() => {
      if (cancelled.has(id)) throw new Error('stopped before its turn');
      return watched(id, working.connection, () => inRun(working.connection, task));
    });
    working.turn = mine.catch(() => undefined);
    return mine;
  }
  pages ??= fresh()
    .then((instance) => confine(instance, pagesFolder))
    .then(lock);
  return connected(id, await pages, (connection): Promise<unknown> => {
    switch (task.work) {
      case 'page':
        return page(connection, task);
      case 'cell':
        return cell(connection, task);
      case 'sort':
        return sort(connection, task);
      case 'find':
        return find(connection, task);
      case 'profile':
        return profile(connection, task);
      case 'extent':
        return extent(connection, task);
      case 'write':
        return write(connection, task);
      case 'paper':
        return writePaper(connection, task, () => cancelled.has(id));
    }
  });
}

async function connected<T>(id: number, instance: DuckDBInstance, work: (connection: DuckDBConnection) => Promise<T>): Promise<T> {
  const connection = await instance.connect();
  try {
    if (cancelled.has(id)) throw new Error('stopped before its turn');
    return await watched(id, connection, () => work(connection));
  } finally {
    connection.closeSync();
  }
}

function inRun(connection: DuckDBConnection, task: EngineWork & { work: 'combine' | 'rows' }): Promise<unknown> {
  return task.work === 'combine' ? combine(connection, task) : smallRows(connection, task);
}

async function watched<T>(id: number, connection: DuckDBConnection, work: () => Promise<T>): Promise<T> {
  active.set(id, connection);
  try {
    return await work();
  } finally {
    active.delete(id);
  }
}

function failure(id: number, error: unknown): EngineReply {
  const message = error instanceof Error ? error.message : String(error);
  const code =
    error instanceof UnknownRun
      ? 'engine-lost'
      : cancelled.has(id)
        ? 'engine-cancelled'
        : /out of memory|no space|max_temp_directory|ENOSPC/i.test(message)
          ? 'engine-full'
          : /^out of range error/i.test(message)
            ? 'engine-range'
            : 'engine-failed';
  return { id, ok: false, code, message: shortened(message) };
}

const MOST_SAID = 1_000;

/** The engine's messages can quote a whole row; what happened stands at their beginning or their end. */
function shortened(message: string): string {
  return message.length <= 2 * MOST_SAID ? message : `${message.slice(0, MOST_SAID)} … ${message.slice(-MOST_SAID)}`;
}

// A parent that died meanwhile hears nothing; its end is told by `disconnect`.
const reply = (message: EngineReply) => process.send?.(message, undefined, undefined, () => undefined);

process.on('message', (request: EngineRequest) => {
  const { id, task } = request;
  if (task.work === 'cancel') {
    cancelled.add(task.request);
    active.get(task.request)?.interrupt();
    return;
  }
  perform(id, task).then(
    (answer) => reply({ id, ok: true, answer: answer as null }),
    (error: unknown) => reply(failure(id, error)),
  );
});

process.on('disconnect', () => process.exit(0));
process.on('SIGINT', () => undefined);
spare = warmed();
reply({ ready: ENGINE_VERSION });
