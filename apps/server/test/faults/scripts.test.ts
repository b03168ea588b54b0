import type { ToldScript } from '@cendra/core';
import type { DatasetBody, Person, RunBody } from '../support/cendra';
import { Cendra, ended, eventually } from '../support/cendra';
import { cluster, unique, withSuperuser } from '../support/cluster';
import { edit } from '../support/datasets';
import type { OwnReader } from '../support/own-reader';
import { ownReader, sourceAs } from '../support/own-reader';
import { datasetOfScript, described, scriptOf } from '../support/texts';

/** What happens to a script in the middle: it can be stopped, ends within its limits, and leaves no session and no temp table. */

let cendra: Cendra;
let analyst: Person;
let reader: OwnReader;

beforeAll(async () => {
  cendra = await Cendra.start({
    limits: { statementTime: 4_000, scriptSession: 1_500, tempBytes: 8_000_000, scriptSessions: 2, pageBytes: 400_000 },
  });
  analyst = await cendra.signIn('analyst');
  reader = await ownReader(cendra);
});
afterAll(() => cendra.stop());

const SLOW = 'insert into t select count(*) from generate_series(1, 1000000000)';
const script = (seventeenth: string) =>
  [
    'create temp table t (a bigint)',
    ...Array.from({ length: 15 }, (_each, at) => `insert into t values (${at})`),
    seventeenth,
    'select a from t',
  ].join(';\n');

const bodyOf = (dataset: DatasetBody) => ({
  dataset: dataset.id,
  revision: dataset.revision,
  step: scriptOf(dataset).id,
  values: {},
});
const runScript = (dataset: DatasetBody) => analyst.post<ToldScript>('/scripts/run', bodyOf(dataset));
const startRun = (dataset: DatasetBody) => analyst.post<RunBody>('/runs', { ...bodyOf(dataset), size: 'full', slot: unique('slot') });
const noSession = () => eventually('no session is left', async () => (await reader.atWork()) === 0);
const stuck = () => eventually('the seventeenth statement is at work', async () => (await backends()).length > 0);
const backends = () =>
  withSuperuser('postgres', async (client) => {
    const text = "select pid from pg_stat_activity where usename = $1 and state = 'active' and query like '%generate_series%'";
    return (await client.query<{ pid: number }>(text, [reader.user])).rows;
  });

async function terminate(): Promise<void> {
  for (const { pid } of await backends())
    await withSuperuser('postgres', (client) => client.query('select pg_terminate_backend($1)', [pid]));
}

test('a run that is stopped in its seventeenth statement ends there, and nothing of it is left', async () => {
  const started = await startRun(await datasetOfScript(analyst, reader.source, script(SLOW)));
  await stuck();
  expect((await analyst.post<RunBody>(`/runs/${started.id}/cancel`)).state).toBe('cancelled');
  await noSession();
});

test('a connection that is lost in its seventeenth statement fails the run, and says so', async () => {
  const dataset = await datasetOfScript(analyst, reader.source, script(SLOW));
  const started = await startRun(dataset);
  await stuck();
  await terminate();
  expect(await ended(analyst, started.id)).toMatchObject({ state: 'failed', problems: [{ code: 'source-lost' }] });
  await noSession();
  // Statement by statement, what had run is told; nothing is kept of a session that is gone.
  const asked = runScript(dataset);
  await stuck();
  await terminate();
  const { statements, until } = await asked;
  expect([statements.map(({ state }) => state), until]).toEqual([[...Array<string>(16).fill('ran'), 'failed', 'not run'], null]);
  expect(statements[16]?.problems).toMatchObject([
    { code: 'source-lost', message: 'Statement 17: The source broke off the connection.', expected: 'run again when it is back' },
  ]);
  await noSession();
});

test('a statement that goes on longer than it may is ended, with its number', async () => {
  const dataset = await datasetOfScript(analyst, reader.source, script(SLOW));
  const done = await ended(analyst, (await startRun(dataset)).id);
  expect(done).toMatchObject({ state: 'failed', problems: [{ code: 'statement-too-long' }] });
  expect(JSON.stringify(done.problems)).toContain('Statement 17: ');
  await noSession();
});

test('while it runs in one place, it is not run in another', async () => {
  const dataset = await datasetOfScript(analyst, reader.source, script(SLOW));
  const first = analyst.ask('POST', '/scripts/run', bodyOf(dataset));
  await stuck();
  const { status, body } = await analyst.ask<{ problems: { code: string }[] }>('POST', '/scripts/run', bodyOf(dataset));
  expect([status, body.problems[0]?.code]).toEqual([409, 'script-running']);
  await terminate();
  await first;
  await noSession();
});

test('temp tables that take more room than they may are refused where that happens, and what stood before stands', async () => {
  const filling =
    'create temp table t (a bigint);\ninsert into t values (1);\ninsert into t select g from generate_series(1, 400000) g;\nselect a from t';
  const dataset = await datasetOfScript(analyst, reader.source, filling);
  const { statements } = await runScript(dataset);
  expect(statements.map(({ state }) => state)).toEqual(['ran', 'ran', 'failed', 'not run']);
  expect(statements[2]?.problems[0]).toMatchObject({
    code: 'temp-tables-large',
    message: expect.stringContaining('Statement 3: ') as string,
  });
  await noSession();
});

test('of long texts and wide rows so much is told as can be read, and the server goes on', async () => {
  const columns = Array.from({ length: 100 }, (_each, at) => `repeat('x', 1000) as c${at}`).join(', ');
  const long = [
    `create temp table wide as select n, ${columns} from generate_series(1, 500) n`,
    "select repeat('y', 3000000) as y from generate_series(1, 40)",
    "update wide set c0 = 'z'",
    'select n from wide',
  ].join(';\n');
  const dataset = await datasetOfScript(analyst, reader.source, long);
  const told = await runScript(dataset);
  expect(told.statements.map(({ state, rows }) => [state, rows])).toEqual([
    ['ran', '500'],
    ['ran', '40'],
    ['ran', '500'],
    ['ran', '500'],
  ]);
  expect(JSON.stringify(told).length).toBeLessThan(2_000_000);
  expect(told.statements[1]?.first?.rows).toHaveLength(40);
  expect(told.statements[2]?.temps[0]?.touched?.change).toEqual({ by: 'count', before: '500', after: '500' });
  await noSession();
});

test('however often a script runs in one session, what its statements did is told', async () => {
  const filling = "create temp table t as select n, repeat('x', 250) as x from generate_series(1, 1000) n;\nselect n from t";
  const dataset = await datasetOfScript(analyst, reader.source, filling);
  const step = scriptOf(dataset);
  let now = dataset;
  for (let turn = 0; turn < 4; turn++) {
    const { sql } = scriptOf(now);
    const to = { ...step.sql, text: step.sql.text.replace('1000', `${1000 + turn}`) };
    if (turn > 0) now = await edit(analyst, now, { kind: 'set step', step: step.id, property: 'sql', from: sql, to });
    const { statements } = await runScript(now);
    expect(statements[0]?.temps[0]?.touched?.rows).toHaveLength(200);
  }
  await noSession();
});

test('a kept session is ended when its time is over, and the oldest where there are too many', async () => {
  const datasets = [];
  for (let n = 0; n < 3; n++)
    datasets.push(await datasetOfScript(analyst, reader.source, `create temp table t as select ${n} as a;\nselect a from t`));
  for (const each of datasets) await runScript(each);
  expect(await reader.atWork()).toBeLessThanOrEqual(2);
  await noSession();
  const [first] = datasets;
  if (first) expect((await runScript(first)).stood).toBe(0);
  await noSession();
});

test('a script of five hundred statements is refused with how many may be', async () => {
  const many = Array.from({ length: 500 }, () => 'select 1').join(';\n');
  const { problems } = await described(analyst, reader.source, many, [], true);
  expect(problems).toMatchObject([{ code: 'statements-several', expected: 'at most 200' }]);
});

test('who may not make temp tables is told so', async () => {
  const user = unique('untemporary');
  await withSuperuser('cooperative', (client) =>
    client.query(`create role ${user} login password '${cluster.demoPassword}'; grant connect on database cooperative to ${user}`),
  );
  const source = await sourceAs(cendra, user, cluster.port);
  const { problems } = await described(analyst, source, 'create temp table t as select 1 as a;\nselect a from t', [], true);
  expect(problems.map((each) => each.code)).toEqual(['rights-missing']);
});
