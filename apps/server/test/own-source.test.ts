import { execFileSync } from 'node:child_process';
import { chownSync, chmodSync, readFileSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Client } from 'pg';
import type { Cluster } from '../../../scripts/setup/cluster';
import { startCluster } from '../../../scripts/setup/cluster';
import type { Person } from './support/cendra';
import { Cendra, ended, eventually, postgresqlAt, run, startFull } from './support/cendra';
import { folderFor } from './support/cluster';
import { datasetOf } from './support/datasets';

/** A database server of this file's own: with TLS, and one that may be killed. */

let folder: string;
let own: Cluster;
let cendra: Cendra;
let steward: Person;

beforeAll(async () => {
  folder = folderFor('own');
  execFileSync('chmod', ['711', folder]);
  own = await startCluster(folder, true);
  const data = join(folder, 'cluster');
  const [key, certificate] = [join(data, 'server.key'), join(data, 'server.crt')];
  execFileSync(
    'openssl',
    ['req', '-new', '-x509', '-days', '2', '-nodes', '-subj', '/CN=harrow-and-thistle', '-keyout', key, '-out', certificate],
    { stdio: 'ignore' },
  );
  const { uid, gid } = statSync(data);
  for (const file of [key, certificate]) {
    chownSync(file, uid, gid);
    chmodSync(file, 0o600);
  }
  const client = new Client({ connectionString: own.url('postgres') });
  await client.connect();
  await client.query('alter system set ssl = on');
  await client.query('select pg_reload_conf()');
  await client.query("create table readings as select n, repeat('honey ', 20) as note from generate_series(1, 400000) n");
  await client.end();
  cendra = await Cendra.start();
  steward = await cendra.signIn('steward');
});
afterAll(async () => {
  await cendra.stop();
  own.stop();
});

const settings = (tls: string) => postgresqlAt({ port: own.port, database: 'postgres', user: 'postgres', tls }, own.password);

test('with TLS required the connection is encrypted, and with TLS verified an unknown certificate is refused', async () => {
  await eventually('the server offers TLS', async () =>
    (await steward.post<{ ok: boolean }>('/sources/test', settings('required'))).ok ? true : undefined,
  );
  expect(await steward.post('/sources/test', settings('verified'))).toMatchObject({
    ok: false,
    problem: { code: 'tls-unverified', place: { pointer: '/settings/tls' } },
  });
  const source = await steward.post<{ id: string }>('/sources', { name: 'Encrypted', mark: 'en', ...settings('required') });
  const dataset = await datasetOf(steward, source.id, 'readings', 'public');
  expect((await run(steward, dataset, 'full')).result).toMatchObject({ rows: '400000', complete: true });
});

test('the database server killed in the middle of a stream fails the run, and leaves nothing', async () => {
  const source = await steward.post<{ id: string }>('/sources', { name: 'Doomed', mark: 'do', ...settings('off') });
  const dataset = await datasetOf(steward, source.id, 'readings', 'public');
  // The same rows many times over, so that the stream is still going when the server dies.
  const watcher = new Client({ connectionString: own.url('postgres') });
  watcher.on('error', () => undefined);
  await watcher.connect();
  await watcher.query(
    'insert into readings select n + 400000, note from readings; insert into readings select n + 800000, note from readings',
  );
  const started = await startFull(steward, dataset);
  await eventually('the source streams', async () => {
    const { rows } = await watcher.query<{ n: string }>(
      "select count(*) n from pg_stat_activity where state = 'active' and query like 'copy (%' and pid <> pg_backend_pid()",
    );
    return Number(rows[0]?.n) > 0;
  });
  const postmaster = Number(readFileSync(join(folder, 'cluster', 'postmaster.pid'), 'utf8').split('\n')[0]);
  const children = execFileSync('ps', ['-o', 'pid=', '--ppid', String(postmaster)], { encoding: 'utf8' })
    .split('\n')
    .map(Number)
    .filter((pid) => pid > 0);
  for (const pid of [postmaster, ...children]) process.kill(pid, 'SIGKILL');
  expect(await ended(steward, started.id)).toMatchObject({ state: 'failed', problems: [{ code: 'source-lost' }], result: null });
  await eventually('no run folder is left', async () => readdirSync(join(cendra.dataFolder, 'runs')).length === 0);
  await watcher.end().catch(() => undefined);
});
