import { shownText } from '../src/sources/sample';
import { createServer } from 'node:net';
import type { Server } from 'node:net';
import type { Person, ProblemBody } from './support/cendra';
import { Cendra, postgresqlAt } from './support/cendra';
import { cluster, unique, withSuperuser } from './support/cluster';
import { demoSource } from './support/datasets';
import { closeRelays, relay } from './support/relay';

let cendra: Cendra;
let steward: Person;
let analyst: Person;
beforeAll(async () => {
  cendra = await Cendra.start();
  [steward, analyst] = [await cendra.signIn('steward'), await cendra.signIn('analyst')];
});
afterAll(() => cendra.stop());

interface SourceBody {
  readonly id: string;
  readonly settings?: object;
  readonly test?: { readonly ok: boolean; readonly stale: boolean };
}
const add = (changes: object = {}) =>
  steward.ask<SourceBody>('POST', '/sources', { name: unique('source'), mark: 'xy', ...postgresqlAt(), ...changes });

describe('a test of settings', () => {
  test('says as whom it signed in and which server answered', async () => {
    const answer = await steward.post('/sources/test', postgresqlAt());
    // Other tests have tables of their own beside those of the demo.
    expect(answer).toMatchObject({ ok: true, user: 'cendra_read' });
    expect((answer as { tables: number }).tables).toBeGreaterThanOrEqual(11);
    expect((answer as { server: string }).server).toMatch(/^PostgreSQL \d+\.\d+$/);
  });

  test.each([
    ['host', postgresqlAt({ host: 'nowhere.invalid' }), 'host-unknown', '/settings/host'],
    ['port', postgresqlAt({ port: 1 }), 'port-closed', '/settings/port'],
    ['database', postgresqlAt({ database: 'nowhere' }), 'database-unknown', '/settings/database'],
    ['password', postgresqlAt({}, 'wrong'), 'sign-in-refused', '/secret'],
    ['user', postgresqlAt({ user: 'nobody' }), 'sign-in-refused', '/secret'],
    ['TLS', postgresqlAt({ tls: 'required' }), 'tls-unavailable', '/settings/tls'],
    ['verified TLS', postgresqlAt({ tls: 'verified' }), 'tls-unavailable', '/settings/tls'],
  ])('with a wrong %s says so at that setting', async (_, source, code, pointer) => {
    const answer = await steward.post<{ ok: boolean; problem: ProblemBody['problems'][number] }>('/sources/test', source);
    expect(answer).toMatchObject({ ok: false, problem: { code, place: { pointer } } });
    expect(JSON.stringify(answer)).not.toContain(cluster.demoPassword);
  });

  test('of a user without rights says which right is missing', async () => {
    const role = unique('role');
    await withSuperuser('cooperative', (client) => client.query(`create role ${role} login password 'pw'`));
    expect(await steward.post('/sources/test', postgresqlAt({ user: role }, 'pw'))).toMatchObject({
      ok: false,
      problem: { code: 'rights-missing' },
    });
    await withSuperuser('cooperative', (client) => client.query(`grant connect on database cooperative to ${role}`));
    expect(await steward.post('/sources/test', postgresqlAt({ user: role }, 'pw'))).toMatchObject({
      ok: false,
      problem: { code: 'rights-missing' },
    });
    await withSuperuser('cooperative', async (client) => {
      await client.query(`revoke connect on database cooperative from ${role}`);
      await client.query(`drop role ${role}`);
    });
  });

  test('of something that is no database, and of something silent, ends with an answer', async () => {
    const [chatty, silent] = [
      await listen((server) => server.on('connection', (socket) => socket.end('220 hello\r\n'))),
      await listen(() => undefined),
    ];
    try {
      expect(await steward.post('/sources/test', postgresqlAt({ port: chatty.port }))).toMatchObject({
        ok: false,
        problem: { code: 'not-a-database' },
      });
      expect(await steward.post('/sources/test', postgresqlAt({ port: silent.port }))).toMatchObject({
        ok: false,
        problem: { code: 'host-silent' },
      });
    } finally {
      chatty.server.close();
      silent.server.close();
    }
  });

  test('of Cendra’s own database is refused', async () => {
    const refused = await steward.ask<ProblemBody>('POST', '/sources/test', postgresqlAt({ database: cendra.database, host: 'localhost' }));
    expect([refused.status, refused.body.type]).toEqual([422, 'own-database']);
  });

  test.each(['0.0.0.0', '::ffff:127.0.0.1', 'another port'])(
    'Cendra’s own database is recognised once connected, however it is reached: %s',
    async (host) => {
      const way = host === 'another port' ? { port: (await relay()).port } : { host };
      const settings = postgresqlAt({ database: cendra.database, user: 'postgres', ...way }, cluster.password);
      try {
        const answer = await steward.ask<{ problem?: { code: string }; type?: string }>('POST', '/sources/test', settings);
        expect(answer.body.problem?.code ?? answer.body.type).toBe('own-database');
        const made = await steward.post<{ id: string }>('/sources', { name: unique('own'), mark: 'ow', ...settings });
        const tables = await steward.ask<ProblemBody>('GET', `/sources/${made.id}/tables`);
        expect([tables.status, tables.body.type]).toEqual([422, 'own-database']);
      } finally {
        closeRelays();
      }
    },
  );
});

async function listen(prepare: (server: Server) => void): Promise<{ server: Server; port: number }> {
  const server = createServer();
  prepare(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', () => resolve()));
  return { server, port: (server.address() as { port: number }).port };
}

describe('a source', () => {
  test('is added, tested, changed, given and removed; a changed setting makes the test stale', async () => {
    const { body: source, status } = await add();
    expect(status).toBe(201);
    expect((await steward.post<SourceBody>(`/sources/${source.id}/test`)).test).toMatchObject({ ok: true, stale: false });
    const changed = await steward.ask<SourceBody>('PATCH', `/sources/${source.id}`, {
      ...postgresqlAt({ database: 'postgres' }),
      kind: undefined,
    });
    expect(changed.body).toMatchObject({ settings: { ...postgresqlAt().settings, database: 'postgres' }, test: { ok: true, stale: true } });

    expect((await analyst.ask('GET', `/sources/${source.id}`)).status).toBe(404);
    await steward.ask('PUT', `/sources/${source.id}/access`, { people: [analyst.id] });
    const seen = await analyst.ask<SourceBody>('GET', `/sources/${source.id}`);
    expect(seen.status).toBe(200);
    expect(seen.body.settings).toBeUndefined();
    await steward.ask('PUT', `/sources/${source.id}/access`, { people: [] });
    expect((await analyst.ask('GET', `/sources/${source.id}`)).status).toBe(404);

    expect((await steward.ask('DELETE', `/sources/${source.id}`)).status).toBe(204);
    expect((await steward.ask('GET', `/sources/${source.id}`)).status).toBe(404);
  });

  test('never gives its password out, and keeps it encrypted', async () => {
    const { body: source, text } = await add();
    expect(text).not.toContain(cluster.demoPassword);
    const all = await steward.ask('GET', '/sources');
    expect(all.text).not.toContain(cluster.demoPassword);
    const stored = await withSuperuser(cendra.database, (client) =>
      client.query<{ secret: string }>('select encode(secret, $1) as secret from source where id = $2', ['escape', source.id]),
    );
    expect(stored.rows[0]?.secret).not.toContain(cluster.demoPassword);
  });

  test('does not send its password to another host', async () => {
    const { body: source } = await add();
    const refused = await steward.ask<ProblemBody>('PATCH', `/sources/${source.id}`, { settings: { host: 'localhost' } });
    expect([refused.status, refused.body.type]).toEqual([422, 'password-needed']);
    const tried = await steward.ask<ProblemBody>('POST', '/sources/test', {
      ...postgresqlAt({ host: 'localhost' }),
      secret: undefined,
      source: source.id,
    });
    expect(tried.body.type).toBe('password-needed');
  });

  test.each([
    ['a port out of range', postgresqlAt({ port: 70_000 }), '/settings/port'],
    ['no host', postgresqlAt({ host: '' }), '/settings/host'],
    ['an unknown TLS mode', postgresqlAt({ tls: 'maybe' }), '/settings/tls'],
    ['a setting the kind does not have', postgresqlAt({ path: '/' }), '/settings/path'],
    ['a setting left out', postgresqlAt({ user: undefined }), '/settings/user'],
    ['no settings', { settings: null }, '/settings'],
    ['a kind that does not exist', { kind: 'constructor' }, '/kind'],
    ['a long mark', { mark: 'xyz' }, '/mark'],
  ])('with %s is refused at that place', async (_, change, pointer) => {
    const refused = await add(change);
    expect(refused.status).toBe(400);
    expect((refused.body as unknown as ProblemBody).problems.map((each) => each.place.pointer)).toContain(pointer);
  });

  test('of a name that is taken is refused', async () => {
    expect((await add({ name: 'Cooperative database' })).status).toBe(409);
  });
});

describe('looking around', () => {
  test('finds a table by parts of its name and describes it', async () => {
    const id = await demoSource(analyst);
    const found = await analyst.get<{ tables: { name: string; estimate: number }[] }>(`/sources/${id}/tables?search=coop harv`);
    expect(found.tables).toMatchObject([{ name: 'harvests', estimate: 12_430 }]);
    const table = await analyst.get<{
      columns: { name: string; role: string; typeWord: string }[];
      relations: unknown[];
      keys: unknown[];
    }>(`/sources/${id}/tables/coop/harvests`);
    expect(Object.fromEntries(table.columns.map(({ name, role }) => [name, role]))).toMatchObject({
      id: 'key',
      apiary_code: 'code',
      picked_on: 'date',
      kilos: 'measure',
      grade: 'attribute',
      batch: 'code',
    });
    expect(table.keys).toEqual([
      { columns: ['id'], primary: true },
      { columns: ['batch'], primary: false },
    ]);
    expect(table.relations).toMatchObject([{ direction: 'in', otherTable: 'deliveries', columns: ['id'], otherColumns: ['harvest_id'] }]);
  });

  test('counts exactly and gives sample rows', async () => {
    const id = await demoSource(analyst);
    expect(await analyst.get(`/sources/${id}/tables/coop/harvests/count`)).toMatchObject({ rows: '12430' });
    const sample = await analyst.get<{ rows: unknown[]; columns: string[] }>(`/sources/${id}/tables/coop/members/sample`);
    expect([sample.rows.length, sample.columns[0]]).toEqual([50, 'id']);
  });

  test('shows the beginning of texts of any length, which the source alone has to hold', async () => {
    const view = unique('letters');
    await withSuperuser('cooperative', (client) =>
      client.query(
        `create view coop.${view} as select i as no, repeat('é', 40000000) as letter, '{}'::json as note from generate_series(1, 3) i; grant select on coop.${view} to cendra_read`,
      ),
    );
    try {
      const id = await demoSource(analyst);
      const sample = await analyst.get<{ rows: string[][]; columns: string[] }>(`/sources/${id}/tables/coop/${view}/sample`);
      expect(sample.columns).toEqual(['no', 'letter', 'note']);
      expect(sample.rows).toEqual(['1', '2', '3'].map((no) => [no, `${'é'.repeat(300)}…`, '{}']));
    } finally {
      await withSuperuser('cooperative', (client) => client.query(`drop view coop.${view}`));
    }
  });

  test.each([
    ['a short text is shown whole', 'é'.repeat(300), 'é'.repeat(300)],
    ['a letter keeps its accent', 'e\u0301'.repeat(160), `${'e\u0301'.repeat(159)}…`],
    ['a character of two halves is not cut', '🐝'.repeat(301), `${'🐝'.repeat(300)}…`],
  ])('%s', (_name, text, shown) => expect(shownText(text)).toBe(shown));

  test('says when there is no such table', async () => {
    const id = await demoSource(analyst);
    expect((await analyst.ask('GET', `/sources/${id}/tables/coop/nothing`)).status).toBe(404);
    expect((await analyst.ask('GET', `/sources/${id}/tables/pg_catalog/pg_class`)).status).toBe(404);
  });
});
