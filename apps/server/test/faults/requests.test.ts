import { request } from 'node:http';
import { addParameter } from '@cendra/core';
import type { DatasetBody, Person, ProblemBody, RunBody } from '../support/cendra';
import { Cendra, ended, eventually, postgresqlAt, run } from '../support/cendra';
import { unique, withSuperuser } from '../support/cluster';
import { datasetOf, demoSource, edit, parameter } from '../support/datasets';
import { ownReader, sourceAs } from '../support/own-reader';
import { closeRelays, relay } from '../support/relay';

/** Requests made to break something are refused with what is wrong with them; none is answered with "try again". */

let cendra: Cendra;
let analyst: Person;
let dataset: DatasetBody;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  dataset = await datasetOf(analyst, await demoSource(analyst), 'regions');
});
afterEach(closeRelays);
afterAll(() => cendra.stop());

const titled = (to: string) =>
  analyst.ask<ProblemBody>('POST', `/datasets/${dataset.id}/edits`, {
    editId: unique('edit'),
    baseRevision: dataset.revision,
    edits: [{ kind: 'set title', from: dataset.definition.title, to }],
  });

test.each([
  ['the character of number 0', 'Yield\u0000'],
  ['the first half of a character', 'Yield \uD83D'],
  ['the second half of a character', '\uDE00 yield'],
])('a text with %s is refused at its place, and whole characters are kept', async (_name, text) => {
  const refused = await titled(text);
  expect([refused.status, refused.body.type, refused.body.problems[0]?.place.pointer]).toEqual([400, 'text-unstorable', '/edits/0/to']);
});

test('characters of two halves and of no width are texts like others', async () => {
  expect((await titled('Yield 🐝 \u200d 蜂')).status).toBe(201);
});

test('a request that is nested without end is refused before it is taken apart', async () => {
  const deep = `{"editId":"e","baseRevision":1,"edits":${'['.repeat(200_000)}${']'.repeat(200_000)}}`;
  const response = await fetch(`${cendra.address}/api/datasets/${dataset.id}/edits`, {
    method: 'POST',
    headers: { cookie: analyst.cookie, 'x-cendra-csrf': analyst.csrf, 'content-type': 'application/json' },
    body: deep,
  });
  expect([response.status, ((await response.json()) as ProblemBody).type]).toEqual([400, 'request-too-deep']);
});

test.each([
  ['GET', '/datasets/constructor'],
  ['GET', '/datasets/__proto__/tables'],
  ['GET', '/runs/constructor'],
  ['GET', '/results/0/rows?offset=0&limit=1'],
  ['GET', '/sources/%00'],
  ['GET', '/sources/x/tables'],
])('%s %s is not found or refused', async (method, path) => {
  expect([400, 404]).toContain((await analyst.ask(method, path)).status);
});

test.each([
  ['GET', () => `/datasets/${dataset.id}/revisions?before=99999999999`],
  ['GET', () => `/datasets/${dataset.id}?revision=1e300`],
  ['GET', () => `/results/${dataset.id}/rows?offset=99999999999999&limit=1`],
])('%s with a number nobody counts to is refused or not found', async (method, path) => {
  expect([400, 404]).toContain((await analyst.ask(method, path())).status);
});

test('an id that is a name of every object is no id', async () => {
  const edits = [
    { kind: 'add parameter', parameter: { ...parameter({ name: 'most' }), id: 'constructor' }, at: { after: null, before: null } },
  ];
  const sent = { editId: unique('edit'), baseRevision: dataset.revision, edits };
  expect((await analyst.ask<ProblemBody>('POST', `/datasets/${dataset.id}/edits`, sent)).body.type).toBe('edit-unreadable');
});

test('the id of somebody else’s edit is taken, and says so', async () => {
  const steward = await cendra.signIn('steward');
  const own = await datasetOf(analyst, await demoSource(analyst), 'regions');
  const sent = {
    editId: unique('edit'),
    baseRevision: own.revision,
    edits: [{ kind: 'set title', from: own.definition.title, to: 'Regions' }],
  };
  expect((await analyst.ask('POST', `/datasets/${own.id}/edits`, sent)).status).toBe(201);
  const other = await steward.ask<ProblemBody>('POST', `/datasets/${own.id}/edits`, sent);
  expect([other.status, other.body.type]).toEqual([409, 'edit-id-taken']);
});

test('settings that are null are refused, and a password goes only where and as it was given for', async () => {
  const steward = await cendra.signIn('steward');
  const made = await steward.post<{ id: string }>('/sources', { name: unique('source'), mark: 'nu', ...postgresqlAt() });
  for (const change of [{ settings: null }, { secret: null }, { name: null }])
    expect((await steward.ask('PATCH', `/sources/${made.id}`, change)).status).toBe(400);
  for (const settings of [{ tls: 'required' }, { database: 'postgres' }]) {
    const refused = await steward.ask<ProblemBody>('PATCH', `/sources/${made.id}`, { settings });
    expect([refused.status, refused.body.type]).toEqual([422, 'password-needed']);
  }
});

/** Below `fetch`, which sets these headers by itself. */
const withHeaders = (headers: Record<string, string>) =>
  new Promise<{ status: number; text: string; cache: string }>((resolve, reject) => {
    const sent = request(`${cendra.address}/api/sign-in`, { method: 'POST', headers: { 'content-type': 'application/json', ...headers } });
    sent.on('error', reject).on('response', (answer) => {
      const chunks: Buffer[] = [];
      answer.on('data', (chunk: Buffer) => chunks.push(chunk));
      answer.on('end', () =>
        resolve({
          status: answer.statusCode ?? 0,
          text: Buffer.concat(chunks).toString(),
          cache: String(answer.headers['cache-control']),
        }),
      );
    });
    sent.end(JSON.stringify({ name: 'analyst', password: 'thistle-analyst' }));
  });

test('a request sent to another name, or from a page of another site, is refused before anything is done', async () => {
  const { host } = new URL(cendra.address);
  expect(await withHeaders({ host: 'cendra.example' })).toMatchObject({
    status: 421,
    text: expect.stringContaining('host-unknown') as string,
  });
  expect(await withHeaders({ host, origin: 'http://cendra.example' })).toMatchObject({
    status: 403,
    cache: 'no-store',
    text: expect.stringContaining('origin-foreign') as string,
  });
  expect(await withHeaders({ host, origin: `http://${host}` })).toMatchObject({ status: 200, cache: 'no-store' });
});

test('however many runs are started at once, so many wait as may', async () => {
  const steward = await cendra.signIn('steward');
  const between = await relay();
  const source = await sourceAs(cendra, 'cendra_read', between.port);
  const slow = await datasetOf(steward, source, 'regions');
  between.stall();
  const start = (slot: string) =>
    steward.ask<RunBody>('POST', '/runs', {
      dataset: slow.id,
      revision: slow.revision,
      step: slow.definition.result,
      size: 'head',
      slot,
      values: {},
    });
  const answers = await Promise.all(Array.from({ length: 60 }, (_each, at) => start(`slot ${at}`)));
  const accepted = answers.filter((each) => each.status === 201);
  expect([accepted.length, new Set(answers.map((each) => each.status))]).toEqual([20, new Set([201, 429])]);
  closeRelays();
  await Promise.all(accepted.map((each) => steward.ask('POST', `/runs/${each.body.id}/cancel`)));
});

test('a title that is cut where a character of two halves stands is cut before it', async () => {
  const own = await datasetOf(analyst, await demoSource(analyst), 'regions');
  const title = `${'x'.repeat(191)}🐝 and bees`.slice(0, 200);
  await edit(analyst, own, { kind: 'set title', from: own.definition.title, to: title });
  const copy = await analyst.ask<DatasetBody>('POST', `/datasets/${own.id}/copies`);
  expect([copy.status, copy.body.definition.title]).toEqual([201, `Copy of ${'x'.repeat(191)}`]);
});

test('the list of runs says what became of them, and not with which values', async () => {
  const steward = await cendra.signIn('steward');
  const made = await datasetOf(steward, await demoSource(steward), 'regions');
  const asked = await edit(steward, made, addParameter(made.definition, parameter({ name: 'names', type: 'text', takes: 'several' })));
  const names = Array.from({ length: 900 }, () => 'x'.repeat(4_000));
  const done = await run(steward, asked, 'head', { 'p-names': names });
  const list = await steward.ask<{ id: string; state: string }[]>('GET', '/runs');
  expect(list.body.find((each) => each.id === done.id)?.state).toBe('done');
  expect(list.text.length).toBeLessThan(100_000);
});

test('who reads from a source is not told where it lies', async () => {
  const between = await relay();
  const source = await sourceAs(cendra, 'cendra_read', between.port);
  const lost = await datasetOf(analyst, source, 'regions');
  between.cut();
  const started = await analyst.post<RunBody>('/runs', {
    dataset: lost.id,
    revision: lost.revision,
    step: lost.definition.result,
    size: 'head',
    slot: 'rows',
    values: {},
  });
  const failed = await ended(analyst, started.id);
  expect(failed.state).toBe('failed');
  const tables = await analyst.ask<ProblemBody>('GET', `/sources/${source}/tables`);
  expect(tables.status).toBe(502);
  for (const told of [JSON.stringify(failed), tables.text])
    for (const secret of ['127.0.0.1', String(between.port), 'cendra_read']) expect(told).not.toContain(secret);
});

test('counts whose readers have gone are stopped at the source, and only so many run at once', async () => {
  const reader = await ownReader(cendra);
  const view = unique('slow');
  await withSuperuser('cooperative', (client) =>
    client.query(
      `create view coop.${view} as select n from generate_series(1, 100) n where pg_sleep(0.5)::text = ''; grant select on coop.${view} to cendra_read`,
    ),
  );
  const gone = new AbortController();
  const asking = Array.from({ length: 25 }, () =>
    fetch(`${cendra.address}/api/sources/${reader.source}/tables/coop/${view}/count`, {
      headers: { cookie: analyst.cookie },
      signal: gone.signal,
    }).catch(() => undefined),
  );
  try {
    await eventually('the source counts', async () => (await reader.atWork()) >= 4);
    // Others are answered meanwhile only when some have left: nobody else may be at work for this person.
    expect(await reader.atWork()).toBe(4);
    gone.abort();
    await Promise.all(asking);
    await eventually('nothing counts any more', async () => (await reader.atWork()) === 0);
  } finally {
    await withSuperuser('cooperative', (client) => client.query(`drop view coop.${view}`));
  }
});
