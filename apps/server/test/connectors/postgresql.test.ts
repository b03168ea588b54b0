import { Client } from 'pg';
import { postgresqlConnector } from '../../src/sources/connectors/postgresql';
import { cluster, withSuperuser } from '../support/cluster';
import { connectorContract } from './contract';

connectorContract('PostgreSQL', {
  connector: postgresqlConnector,
  settings: () => ({ host: '127.0.0.1', port: cluster.port, database: 'cooperative', user: 'cendra_read', tls: 'off' }),
  secret: () => cluster.demoPassword,
  table: { schema: 'coop', name: 'harvests', key: 'id', rows: 12_430 },
  slow: "select count(*) from generate_series(1, 1000000000), (select 'contract') marked",
  fold: 60,
  giant: "select repeat('x', 21000000)",
  stacked: 'select 1) to stdout; create table coop.stacked(); copy (select 1',
  busy: () =>
    withSuperuser('cooperative', async (client) => {
      const result = await client.query<{ n: string }>(
        "select count(*) n from pg_stat_activity where state = 'active' and query like '%(select ''contract'') marked%' and pid <> pg_backend_pid()",
      );
      return Number(result.rows[0]?.n) > 0;
    }),
  wrong: [
    ['the host', { host: 'nowhere.invalid' }, 'host-unknown'],
    ['the port', { port: 1 }, 'port-closed'],
    ['the database', { database: 'nowhere' }, 'database-unknown'],
    ['the password', { secret: 'wrong' }, 'sign-in-refused'],
    ['TLS', { tls: 'verified' }, 'tls-unavailable'],
  ],
});

test('thousands of values reach the source by one statement', async () => {
  const settings = { host: '127.0.0.1', port: cluster.port, database: 'cooperative', user: 'cendra_read', tls: 'off' as const };
  const snapshot = await postgresqlConnector.open(settings, cluster.demoPassword);
  const asked = jest.spyOn(Client.prototype, 'query');
  try {
    const values = Array.from({ length: 10_000 }, (_each, n) => ({ type: { kind: 'whole' as const }, value: String(n) }));
    const read = values.map((_each, n) => postgresqlConnector.dialect.value(n + 1, { kind: 'whole' }));
    const rows = await snapshot.rows({
      text: `select count(*) from (values ${read.map((each) => `(${each})`).join(', ')}) v`,
      values,
      columns: [],
    });
    expect([rows, asked.mock.calls.length]).toEqual([[['10000']], 2]);
  } finally {
    asked.mockRestore();
    await snapshot.close();
  }
});

test('statements asked of one snapshot at the same time keep their values apart', async () => {
  const settings = { host: '127.0.0.1', port: cluster.port, database: 'cooperative', user: 'cendra_read', tls: 'off' as const };
  const snapshot = await postgresqlConnector.open(settings, cluster.demoPassword);
  try {
    const told = (value: string) =>
      snapshot.rows({
        text: `select ${postgresqlConnector.dialect.value(1, { kind: 'text' })}`,
        values: [{ type: { kind: 'text' }, value }],
        columns: [],
      });
    const words = ['heather', 'lime', 'clover', 'rape'];
    expect(await Promise.all(words.map(told))).toEqual(words.map((each) => [[each]]));
  } finally {
    await snapshot.close();
  }
});

test('rows asked of a connection that is lost already are refused, and nobody waits for them', async () => {
  const settings = { host: '127.0.0.1', port: cluster.port, database: 'cooperative', user: 'cendra_read', tls: 'off' as const };
  const snapshot = await postgresqlConnector.open(settings, cluster.demoPassword);
  const pid = { text: 'select pg_backend_pid()', values: [], columns: [] };
  const [[own] = []] = await snapshot.rows(pid);
  await withSuperuser('postgres', (client) => client.query('select pg_terminate_backend($1)', [own]));
  await expect(snapshot.rows(pid)).rejects.toMatchObject({ problems: [{ code: 'source-lost' }] });
  const sink = { next: () => Buffer.alloc(1_000), take: () => Promise.resolve() };
  const limits = { rows: 10, bytes: 1_000 };
  const copied = snapshot.copyTo(sink as never, { text: 'select 1', values: [], columns: [] }, limits, () => undefined);
  await expect(copied).rejects.toMatchObject({ problems: [{ code: 'source-lost' }] });
  await snapshot.close();
});
