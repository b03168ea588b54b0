import { randomUUID } from 'node:crypto';
import { mkdirSync, readdirSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate } from 'node:timers/promises';
import { fittingLayout, lineReader, PLAIN_LAYOUT, proofTable, sheetFields } from '@cendra/core';
import { DuckDBInstance } from '@duckdb/node-api';
import { Engine, ResultStore } from '../../src/engine';
import { ENGINE_VERSION } from '../../src/engine/messages';
import { writePdf } from '../../src/engine/paper/pdf';
import { writeText } from '../../src/engine/paper/texts';
import { writeXlsx } from '../../src/engine/xlsx';
import type { FirstPages } from '../../src/runs/first-pages';
import type { Result } from '../../src/runs/result.entity';
import { ResultsService } from '../../src/runs/results.service';
import { postgresqlConnector } from '../../src/sources/connectors/postgresql';
import { writeAll } from '../../src/sources/connectors/postgresql/segments';
import type { Person, ProblemBody } from '../support/cendra';
import { Cendra, enginesOf, rowsOf, run } from '../support/cendra';
import { cluster, folderFor } from '../support/cluster';
import { datasetOf, demoSource } from '../support/datasets';

/** What lies on disk is whole or absent, whatever ends in the middle; and who is waited for has a deadline. */

const result = {
  id: 'r',
  columns: [{ id: 'n', name: 'n', type: { kind: 'whole' } }],
  misfits: {},
} as unknown as Result;
const firstPages = { read: () => undefined } as unknown as FirstPages;
const sort = [{ field: 'n', descending: true }];

/** An engine that writes half of a sorted view and ends, the first time; then it writes the whole. */
const HALF = `
const { existsSync, writeFileSync } = require('node:fs');
process.send({ ready: ${ENGINE_VERSION} });
process.on('message', ({ id, task }) => {
  if (task.work === 'page') return process.send({ id, ok: true, answer: require('node:fs').readFileSync(task.file) });
  const again = existsSync(__dirname + '/again');
  writeFileSync(task.out, again ? 'whole' : 'half');
  if (again) return process.send({ id, ok: true, answer: null });
  writeFileSync(__dirname + '/again', '');
  process.exit(1);
});`;

test('a sorted view that ended in the middle is not served, and is made again', async () => {
  const folder = folderFor('half');
  const program = join(folder, 'engine.cjs');
  writeFileSync(program, HALF);
  const store = new ResultStore(folder);
  mkdirSync(store.rows('r'), { recursive: true });
  const engine = new Engine(store.resultsFolder, program);
  const results = new ResultsService({} as never, {} as never, store, firstPages, engine);
  try {
    await expect(results.page(result, 0, 10, sort)).rejects.toMatchObject({ problems: [{ code: 'engine-lost' }] });
    expect(readdirSync(store.folder('r'))).toEqual(['rows']);
    expect(Buffer.from(await results.page(result, 0, 10, sort)).toString()).toBe('whole');
    expect(readdirSync(store.folder('r')).filter((each) => each.startsWith('making-'))).toEqual([]);
  } finally {
    await engine.stop();
  }
});

test('what a fault left is swept while the server goes on, and what is young is not', async () => {
  const store = new ResultStore(folderFor('left'));
  await store.sweep(new Set());
  const old = new Date(Date.now() - 7_200_000);
  const made = async (path: string, folder: boolean, age?: Date) => {
    if (folder) mkdirSync(path, { recursive: true });
    else writeFileSync(path, 'x');
    if (age) utimesSync(path, age, age);
  };
  for (const id of ['known', 'unknown', 'young']) mkdirSync(store.rows(id), { recursive: true });
  const [stray, fresh] = [store.making('known'), store.making('known')];
  await made(stray, false, old);
  await made(fresh, false);
  await made(store.folder('unknown'), true, old);
  await made(await store.openRun('over'), true, old);
  await made(await store.openRun('under-way'), true);
  await store.sweepLeft(new Set(['known']), 3_600_000);
  expect(readdirSync(store.resultsFolder).sort()).toEqual(['known', 'young']);
  expect(readdirSync(store.folder('known')).map((each) => join(store.folder('known'), each))).toEqual([fresh, store.rows('known')].sort());
  expect(readdirSync(join(store.resultsFolder, '..', 'runs'))).toEqual(['under-way']);
});

test('a spreadsheet for which there is no room on the disk says so', async () => {
  const connection = await (await DuckDBInstance.create(':memory:')).connect();
  const file = join(folderFor('full-disk'), 'rows.parquet');
  await connection.run(`copy (select range n, repeat(md5(range::varchar), 20) w from range(20000)) to '${file}'`);
  const column = (id: string, kind: 'whole' | 'text') => ({ id, name: id, label: id, type: { kind } });
  const task = { work: 'write', format: 'xlsx', file, columns: [column('n', 'whole'), column('w', 'text')], marked: false, about: [] };
  await expect(writeXlsx(connection, { ...task, out: '/dev/full' } as never)).rejects.toMatchObject({ code: 'ENOSPC' });
  connection.closeSync();
});

test('a paper for which there is no room on the disk says so, and ends nothing else', async () => {
  const fields = sheetFields({ fields: [] }, [], []);
  const table = proofTable(fittingLayout(PLAIN_LAYOUT, fields), fields);
  const paper = { table, title: 'Harvests', notes: [], language: 'en-GB', out: '/dev/full' };
  const read = lineReader({ columns: [] }, table.layout);
  const lines = async function* () {
    for (let at = 0; at < 20_000; at++) {
      if (at % 100 === 0) await setImmediate();
      yield read([String(at)]);
    }
  };
  const unseen: unknown[] = [];
  const note = (error: unknown) => void unseen.push(error);
  process.on('uncaughtException', note);
  await expect(writePdf(paper, lines)).rejects.toMatchObject({ code: 'ENOSPC' });
  for (const format of ['html', 'md', 'xml'] as const)
    await expect(writeText(format, paper, lines)).rejects.toMatchObject({ code: 'ENOSPC' });
  process.off('uncaughtException', note);
  expect(unseen).toEqual([]);
});

test('a spreadsheet that cannot be written ends only when nothing is read of its connection any more, which is closed then', async () => {
  let goOn = () => {};
  const held = new Promise<void>((resolve) => (goOn = resolve));
  const stream = () => held.then(() => Promise.reject(new Error('read after all')));
  const file = join(folderFor('held'), 'rows.parquet');
  let ended = false;
  const written = writeXlsx({ stream } as never, { columns: [], about: [], file, out: '/dev/full' } as never).catch((error: unknown) => {
    ended = true;
    return error;
  });
  // Turns enough for the disk to answer that it is full.
  for (let turns = 0; turns < 20_000; turns++) await setImmediate();
  expect(ended).toBe(false);
  goOn();
  expect(await written).toMatchObject({ code: 'ENOSPC' });
});

test('a full disk of Cendra’s own is not the source’s fault', async () => {
  const snapshot = await postgresqlConnector.open(
    { host: '127.0.0.1', port: cluster.port, database: 'cooperative', user: 'cendra_read', tls: 'off' },
    cluster.demoPassword,
  );
  const folder = folderFor('no-room');
  const sink = { next: () => join(folder, randomUUID()), take: () => writeFile('/dev/full', 'rows') };
  const statement = { text: 'select n from generate_series(1, 100000) n', values: [], columns: [] };
  try {
    await expect(snapshot.copyTo(sink, statement, { rows: 1e9, bytes: 1e12 }, () => undefined)).rejects.toMatchObject({
      code: 'ENOSPC',
    });
  } finally {
    await snapshot.close();
  }
});

test('of a disk that has room for a part only, the rest is asked again', async () => {
  const taken: string[] = [];
  const handle = {
    write: (bytes: Buffer, at: number) => {
      const part = bytes.subarray(at, at + 4);
      taken.push(part.toString());
      return Promise.resolve({ bytesWritten: part.length, buffer: bytes });
    },
  };
  await writeAll(handle as never, Buffer.from('heather 12'));
  expect(taken).toEqual(['heat', 'her ', '12']);
});

/** An engine that hears and does nothing of what it is asked for until it is told to stop. */
const SLOW = `
process.send({ ready: ${ENGINE_VERSION} });
process.on('message', ({ id, task }) => {
  if (task.work === 'memory') process.send({ id, ok: true, answer: 1 });
  if (task.work === 'cancel') process.send({ id: task.request, ok: false, code: 'engine-cancelled', message: 'stopped' });
});`;

test('work of the combine engine that takes longer than it may is stopped', async () => {
  const folder = folderFor('slow');
  const program = join(folder, 'engine.cjs');
  writeFileSync(program, SLOW);
  const engine = new Engine(folder, program, () => 300);
  try {
    await expect(engine.do({ work: 'extent', file: 'rows', columns: [] })).rejects.toMatchObject({ problems: [{ code: 'engine-slow' }] });
  } finally {
    await engine.stop();
  }
});

describe('a running Cendra', () => {
  let cendra: Cendra;
  let analyst: Person;
  beforeAll(async () => {
    cendra = await Cendra.start({ limits: { engineSilence: 6_000 } });
    analyst = await cendra.signIn('analyst');
  });
  afterAll(() => cendra.stop());

  test('files of its own that cannot be written are not the source’s fault, and are written again when they can', async () => {
    const dataset = await datasetOf(analyst, await demoSource(analyst), 'harvests');
    const folder = join(cendra.dataFolder, 'results');
    renameSync(folder, `${folder} away`);
    writeFileSync(folder, 'no folder');
    const failed = await run(analyst, dataset, 'full');
    expect(failed).toMatchObject({ state: 'failed', problems: [{ code: 'disk-failed' }] });
    expect(JSON.stringify(failed)).not.toContain(cendra.dataFolder);
    rmSync(folder);
    renameSync(`${folder} away`, folder);
    const before = readdirSync(folder).length;
    expect(await run(analyst, dataset, 'full')).toMatchObject({ state: 'done' });
    expect(readdirSync(folder).length).toBeGreaterThan(before);
  });

  test('is not waited for by who asks what is in use', async () => {
    await run(analyst, await datasetOf(analyst, await demoSource(analyst), 'regions'), 'full');
    const steward = await cendra.signIn('steward');
    const engines = enginesOf(cendra.pid);
    for (const pid of engines) process.kill(pid, 'SIGSTOP');
    const inUse = await steward.get<{ name: string; value: number | null }[]>('/limits/in-use');
    for (const pid of engines) process.kill(pid, 'SIGCONT');
    expect(inUse.find((each) => each.name === 'engine')?.value).toBeNull();
    expect(inUse.find((each) => each.name === 'storedRows')?.value).toBeGreaterThan(0);
  });

  test('is given up soon, and the next page comes of a new one', async () => {
    const done = await run(analyst, await datasetOf(analyst, await demoSource(analyst), 'regions'), 'full');
    for (const pid of enginesOf(cendra.pid)) process.kill(pid, 'SIGSTOP');
    const late = await analyst.ask<ProblemBody>('GET', `/results/${done.result?.id}/rows?offset=0&limit=5`);
    expect([late.status, late.body.type]).toEqual([503, 'engine-lost']);
    expect((await rowsOf(analyst, done.result?.id ?? '')).length).toBeGreaterThan(0);
    // Those of runs and downloads stand still as well, and are given up likewise.
    expect((await run(analyst, await datasetOf(analyst, await demoSource(analyst), 'regions'), 'full')).state).toBe('failed');
    expect((await run(analyst, await datasetOf(analyst, await demoSource(analyst), 'regions'), 'full')).state).toBe('done');
  });
});
