import { readdirSync } from 'node:fs';
import type { DatasetBody, Person, RunBody } from '../support/cendra';
import { Cendra, ended, enginesOf, eventually, rowsOf, run, startFull } from '../support/cendra';
import { unique, withSuperuser } from '../support/cluster';
import { datasetOf, edit } from '../support/datasets';
import type { OwnReader } from '../support/own-reader';
import { ownReader, sourceAs } from '../support/own-reader';
import { closeRelays, relay } from '../support/relay';

/** Whatever is killed in the middle: afterwards no run is open, no backend works, no file is left, no acknowledged edit is lost. */

let cendra: Cendra;
let analyst: Person;
let reader: OwnReader;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  reader = await ownReader(cendra);
});
afterEach(closeRelays);
afterAll(() => cendra.stop());

const big = () => datasetOf(analyst, reader.source, 'scale_readings');
const start = (dataset: DatasetBody) => startFull(analyst, dataset);

const openRuns = () =>
  withSuperuser(cendra.database, async (client) =>
    Number((await client.query<{ n: string }>("select count(*) n from run where state in ('waiting', 'running')")).rows[0]?.n),
  );

async function nothingIsLeft(): Promise<void> {
  await eventually('no run is open', async () => (await openRuns()) === 0);
  await eventually('no backend works', async () => (await reader.atWork()) === 0);
  await eventually('no run folder is left', async () => readdirSync(`${cendra.dataFolder}/runs`).length === 0);
  const kept = await withSuperuser(cendra.database, (client) => client.query<{ id: string }>('select id from result'));
  expect(
    readdirSync(`${cendra.dataFolder}/results`)
      .filter((each) => each !== 'spill')
      .sort(),
  ).toEqual(kept.rows.map((each) => each.id).sort());
}

test('the engine killed during a run fails that run, and the next one works', async () => {
  const dataset = await big();
  const started = await start(dataset);
  await eventually('the run is under way', async () => (await analyst.get<RunBody>(`/runs/${started.id}`)).state === 'running');
  for (const pid of enginesOf(cendra.pid)) process.kill(pid, 'SIGKILL');
  const failed = await ended(analyst, started.id);
  expect(failed).toMatchObject({ state: 'failed', problems: [{ code: 'engine-lost' }] });
  await nothingIsLeft();
  expect((await run(analyst, dataset, 'head')).state).toBe('done');
});

test('the server killed during a run leaves the run failed and its query stopped', async () => {
  const started = await start(await big());
  await eventually('the source works', async () => (await reader.atWork()) > 0);
  await cendra.killAndStart();
  const failed = await analyst.get<RunBody>(`/runs/${started.id}`);
  expect(failed).toMatchObject({ state: 'failed', problems: [{ code: 'server-stopped' }] });
  await nothingIsLeft();
  expect(enginesOf(1).length).toBe(0);
});

test('the server killed during saves keeps every acknowledged edit, and sending again does not double', async () => {
  let dataset = await datasetOf(analyst, reader.source, 'regions');
  const sending: { readonly editId: string; readonly to: string; acknowledged: boolean }[] = [];
  const saves = (async () => {
    for (let count = 0; ; count++) {
      const each = { editId: unique('edit'), to: `Title ${count}`, acknowledged: false };
      sending.push(each);
      const answer = await analyst.post<DatasetBody>(`/datasets/${dataset.id}/edits`, {
        editId: each.editId,
        baseRevision: dataset.revision,
        edits: [{ kind: 'set title', from: dataset.definition.title, to: each.to }],
      });
      // The server knows that the sender has what the edits made.
      dataset = { ...dataset, revision: answer.revision, definition: { ...dataset.definition, title: each.to } };
      each.acknowledged = true;
    }
  })();
  await eventually('some edits are saved', async () => sending.length > 15);
  await Promise.all([cendra.killAndStart(), saves.catch(() => undefined)]);
  const after = await analyst.get<DatasetBody>(`/datasets/${dataset.id}`);
  const acknowledged = sending.filter((each) => each.acknowledged);
  expect(after.revision).toBeGreaterThanOrEqual(acknowledged.length + 2);
  const last = sending.at(-1);
  const repeat = await analyst.post<DatasetBody>(`/datasets/${dataset.id}/edits`, {
    editId: last?.editId,
    baseRevision: dataset.revision,
    edits: [{ kind: 'set title', from: dataset.definition.title, to: last?.to }],
  });
  const { title } = (await analyst.get<DatasetBody>(`/datasets/${dataset.id}`)).definition;
  expect([title, repeat.revision]).toEqual([last?.to, sending.length + 2]);
});

test('the source lost in the middle of a stream fails the run with a plain reason', async () => {
  const { port, cut } = await relay();
  // An engine that is still opening the run's instance makes no folder after the run is over.
  const engines = enginesOf(cendra.pid);
  for (const pid of engines) process.kill(pid, 'SIGSTOP');
  const started = await streamingThrough(port);
  cut();
  await eventually('no backend works', async () => (await reader.atWork()) === 0);
  for (const pid of engines) process.kill(pid, 'SIGCONT');
  const failed = await ended(analyst, started.id);
  expect(failed).toMatchObject({ state: 'failed', problems: [{ code: 'source-lost' }], result: null });
  expect((await run(analyst, await datasetOf(analyst, reader.source, 'regions'), 'head')).state).toBe('done');
  await nothingIsLeft();
});

test('first rows are read, sorted and profiled while the rest is on its way, and give way to all of them', async () => {
  const { port, stall, goOn } = await relay();
  const started = await streamingThrough(port);
  const first = await firstRowsOf(started);
  stall();
  expect(first).toMatchObject({ complete: false, cut: null });
  expect(await analyst.get<RunBody>(`/runs/${started.id}`)).toMatchObject({ state: 'running', result: null });
  const page = await rowsOf(analyst, first.id, 'offset=0&limit=50');
  const last = Number(first.rows) - 1;
  expect((await rowsOf(analyst, first.id, `offset=${last}&limit=50`)).map(([number]) => number)).toEqual([String(last)]);
  const field = first.columns[0]?.id ?? '';
  expect(await rowsOf(analyst, first.id, `offset=0&limit=5&sort=${field}:desc`)).toHaveLength(5);
  expect(await analyst.get(`/results/${first.id}/profile?field=${field}`)).toMatchObject({ rows: first.rows });
  goOn();
  const done = await ended(analyst, started.id);
  expect(done).toMatchObject({ state: 'done', result: { complete: true }, firstRows: null });
  expect(Number(done.result?.rows)).toBeGreaterThan(last + 1);
  expect(await rowsOf(analyst, done.result?.id ?? '', 'offset=0&limit=50')).toEqual(page);
  await eventually('first rows are gone', async () => (await analyst.ask('GET', `/results/${first.id}`)).status === 404);
  await nothingIsLeft();
});

test('of a source that is lost after its first rows were read nothing is left', async () => {
  const { port, cut } = await relay();
  const started = await streamingThrough(port);
  const first = await firstRowsOf(started);
  cut();
  expect(await ended(analyst, started.id)).toMatchObject({ state: 'failed', result: null, firstRows: null });
  expect((await analyst.ask('GET', `/results/${first.id}/rows?offset=0&limit=1`)).status).toBe(404);
  await nothingIsLeft();
});

const firstRowsOf = ({ id }: RunBody) =>
  eventually('first rows are there', async () => (await analyst.get<RunBody>(`/runs/${id}`)).firstRows ?? undefined);

test('a source that stalls in the middle of a stream can be stopped', async () => {
  const { port, stall } = await relay();
  const started = await streamingThrough(port);
  stall();
  const stopped = await analyst.post<RunBody>(`/runs/${started.id}/cancel`);
  expect(['cancelled', 'done']).toContain(stopped.state);
  await nothingIsLeft();
});

test('a source that stalls before the first row can be stopped, and the next run is not held up', async () => {
  const { port, stall } = await relay();
  const through = await sourceAs(cendra, reader.user, port);
  const dataset = await datasetOf(analyst, through, 'regions');
  stall();
  const started = await start(dataset);
  const stopped = await analyst.post<RunBody>(`/runs/${started.id}/cancel`);
  expect(['cancelled', 'failed']).toContain(stopped.state);
  expect((await run(analyst, await datasetOf(analyst, reader.source, 'regions'), 'head')).state).toBe('done');
  await nothingIsLeft();
});

/** A run of the big table that reads through a port, once its rows arrive. */
async function streamingThrough(port: number): Promise<RunBody> {
  const through = await sourceAs(cendra, reader.user, port);
  const started = await start(await datasetOf(analyst, through, 'scale_readings'));
  await eventually('rows arrive', async () => (await reader.atWork()) > 0);
  return started;
}

test('a dataset edited by two people at once keeps both', async () => {
  const steward = await cendra.signIn('steward');
  const dataset = await datasetOf(analyst, reader.source, 'regions');
  const [a, b] = await Promise.all([
    edit(analyst, dataset, { kind: 'set title', from: dataset.definition.title, to: 'By the analyst' }),
    edit(steward, dataset, {
      kind: 'add parameter',
      at: { after: null, before: null },
      parameter: { id: 'p', name: 'p', type: 'text', takes: 'one', leftBlank: 'matches empty', startsAs: [], hint: '' },
    }),
  ]);
  const now = await analyst.get<DatasetBody>(`/datasets/${dataset.id}`);
  expect([now.definition.title, now.definition.parameters.length, Math.max(a.revision, b.revision)]).toEqual([
    'By the analyst',
    1,
    now.revision,
  ]);
});

test('a graceful stop ends runs and leaves nothing open', async () => {
  const started = await start(await big());
  await eventually('the source works', async () => (await reader.atWork()) > 0);
  process.kill(cendra.pid, 'SIGTERM');
  await eventually('no run is open', async () => (await openRuns()) === 0);
  const state = await withSuperuser(cendra.database, (client) =>
    client.query<{ state: string }>('select state from run where id = $1', [started.id]),
  );
  expect(['cancelled', 'done']).toContain(state.rows[0]?.state);
});
