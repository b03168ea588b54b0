import type { DatasetBody, Person, ProblemBody } from '../support/cendra';
import { Cendra, ended, eventually, run, startFull } from '../support/cendra';
import { withSuperuser } from '../support/cluster';
import { datasetOf } from '../support/datasets';
import type { OwnReader } from '../support/own-reader';
import { ownReader } from '../support/own-reader';
import type { Relay } from '../support/relay';
import { closeRelays, relay } from '../support/relay';

/** Cendra's own database goes away and comes back: the server stays, nothing is said that is not so, and runs end as they ended. */

let way: Relay;
let cendra: Cendra;
let analyst: Person;
let reader: OwnReader;
let dataset: DatasetBody;
beforeAll(async () => {
  way = await relay();
  cendra = await Cendra.start({ through: way.port, limits: { ownTime: 4_000 } });
  analyst = await cendra.signIn('analyst');
  reader = await ownReader(cendra);
  dataset = await datasetOf(analyst, reader.source, 'scale_readings');
});
afterAll(async () => {
  await cendra.stop();
  closeRelays();
});

const statementsOf = (user: string) =>
  withSuperuser('postgres', async (client) => {
    const text = "select count(*) n from pg_stat_activity where usename = $1 and state = 'active'";
    return Number((await client.query<{ n: string }>(text, [user])).rows[0]?.n);
  });

test('while somebody listens and something runs, the server outlives it and the run ends as it ended', async () => {
  const { pid } = cendra;
  const listening = new AbortController();
  const heard = fetch(`${cendra.address}/api/events`, { headers: { cookie: analyst.cookie }, signal: listening.signal }).then((response) =>
    response.text(),
  );
  heard.catch(() => undefined);
  const started = await startFull(analyst, dataset);
  await eventually('the source works', async () => (await reader.atWork()) > 0);
  way.cut();
  const refused = await analyst.ask<ProblemBody>('GET', '/datasets');
  expect([refused.status, refused.body.type]).toEqual([503, 'own-database-away']);
  // Its rows are all there, and cannot be written down.
  await eventually('the source was read', async () => (await statementsOf(reader.user)) === 0);
  await way.goOn();
  expect(await ended(analyst, started.id)).toMatchObject({ state: 'done', result: { complete: true } });
  listening.abort();
  expect(cendra.pid).toBe(pid);
  expect(() => process.kill(pid, 0)).not.toThrow();
});

test('closed to everybody and opened again, what was asked meanwhile can be asked again and a run ends as it ended', async () => {
  const started = await startFull(analyst, dataset);
  await eventually('the source works', async () => (await reader.atWork()) > 0);
  const allow = (yes: boolean) =>
    withSuperuser('postgres', async (client) => {
      await client.query(`alter database ${cendra.database} allow_connections ${yes}`);
      await client.query('select pg_terminate_backend(pid) from pg_stat_activity where datname = $1', [cendra.database]);
    });
  await allow(false);
  const refused = await analyst.ask<ProblemBody>('GET', '/datasets');
  expect([refused.status, refused.body.type]).toEqual([503, 'own-database-away']);
  await eventually('the source was read', async () => (await statementsOf(reader.user)) === 0);
  await allow(true);
  expect(await ended(analyst, started.id)).toMatchObject({ state: 'done', result: { complete: true } });
});

test('its connections ended from the other side, the next request is answered', async () => {
  await withSuperuser('postgres', (client) =>
    client.query('select pg_terminate_backend(pid) from pg_stat_activity where datname = $1', [cendra.database]),
  );
  await eventually('it answers', async () => (await analyst.ask('GET', '/datasets')).status === 200);
  expect((await run(analyst, dataset, 'head')).state).toBe('done');
});

test('when it stands still, requests are refused after a while, and answered when it goes on', async () => {
  way.stall();
  const refused = await analyst.ask<ProblemBody>('GET', '/datasets');
  expect([refused.status, refused.body.type]).toEqual([503, 'own-database-away']);
  await way.goOn();
  await eventually('it answers again', async () => (await analyst.ask('GET', '/datasets')).status === 200);
});
