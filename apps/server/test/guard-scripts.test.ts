import type { ScriptStatement } from '@cendra/core';
import { statementsIn, tokensOf } from '@cendra/core';
import { postgresqlConnector } from '../src/sources/connectors/postgresql';
import { cluster, withSuperuser } from './support/cluster';
import { codeOf, dumped, madeAnew } from './support/guarding';

/**
 * What a script may try to get out of being allowed temp tables. Each is refused by its cause when it is described and
 * when a session is asked to run it; afterwards the database is the same, and no session is left.
 */

const settings = { host: '127.0.0.1', port: cluster.port, database: 'guarded_scripts', user: 'cendra_read', tls: 'off' as const };
const secret = cluster.demoPassword;

const OUTSIDE = 'script-writes-outside';
const LASTING = 'script-makes-lasting';
const REFUSED = 'script-refuses';
const READING = 'text-not-reading';
const TEMP = 'create temp table t (a int);\n';

const ATTEMPTS: readonly (readonly [text: string, code: string])[] = [
  // Real tables.
  ['insert into kept values (2)', OUTSIDE],
  ['update kept set a = 2', OUTSIDE],
  ['delete from kept', OUTSIDE],
  ['truncate kept', OUTSIDE],
  ['drop table kept', OUTSIDE],
  ['alter table kept add column b int', OUTSIDE],
  ['create index on kept (a)', OUTSIDE],
  ['analyze kept', OUTSIDE],
  ['analyze', REFUSED],
  ['vacuum', REFUSED],
  ['merge into kept using kept k on true when matched then delete', OUTSIDE],
  ['with x as (delete from kept returning a) select * from x', OUTSIDE],
  ['create temp table t as with x as (delete from kept returning a) select * from x', OUTSIDE],
  [`${TEMP}insert into t with x as (delete from kept returning a) select a from x`, OUTSIDE],
  [`${TEMP}insert into public.t values (1)`, OUTSIDE],
  [`${TEMP}drop table t;\ndelete from t`, OUTSIDE],
  [`${TEMP}drop table t, kept`, OUTSIDE],
  [`${TEMP}drop table if exists t, kept`, OUTSIDE],
  ['create temp table kept (a int);\ndrop table kept;\ndrop table kept', OUTSIDE],
  ['create temp table kept (a int);\ndelete from public.kept', OUTSIDE],
  // A view on a real table, and through it.
  ['create temp view v as select * from kept;\ninsert into v values (2)', OUTSIDE],
  ['create temp view v as select * from kept;\ndelete from v', OUTSIDE],
  ['create temp view v as select * from kept;\nalter table v add column b int', OUTSIDE],
  ['create temp view v as select * from kept;\ntruncate v', OUTSIDE],
  // What would stay.
  ['create table taken (a int)', LASTING],
  ['create table taken as select 1', LASTING],
  ['create table public.taken as select 1', LASTING],
  ['create unlogged table taken (a int)', LASTING],
  ['create view taken as select 1', LASTING],
  ['create materialized view taken as select 1', LASTING],
  ['select * into taken from kept', READING],
  ['select * into temp taken from kept', READING],
  ['create temp table pg_proc (a int)', REFUSED],
  ['create temp table t (a int references kept)', REFUSED],
  ['create temp table t (like kept including all)', REFUSED],
  ['create temp table t () inherits (kept)', REFUSED],
  // Functions, blocks and settings.
  ["create function pg_temp.wipe() returns int language sql as 'delete from kept returning a'", REFUSED],
  ["do $$ begin execute 'delete from kept'; end $$", REFUSED],
  ['call wipe()', REFUSED],
  [`${TEMP}create trigger tr after insert on t execute function wiping()`, REFUSED],
  [`${TEMP}create rule r as on insert to t do also delete from kept`, REFUSED],
  ['set search_path = hidden', REFUSED],
  ['set local statement_timeout = 0', REFUSED],
  ['reset all', REFUSED],
  ['commit', REFUSED],
  ['rollback', REFUSED],
  ['savepoint before_1', REFUSED],
  ['rollback to savepoint before_1', REFUSED],
  ['set transaction read write', REFUSED],
  ['prepare p as delete from kept', REFUSED],
  ['execute p', REFUSED],
  ['create temp table t as execute p', READING],
  ['declare c cursor for select 1', REFUSED],
  ['copy kept to stdout', REFUSED],
  ["copy kept from '/etc/passwd'", REFUSED],
  ['lock table kept', REFUSED],
  ['listen a', REFUSED],
  ['grant select on kept to public', REFUSED],
  [`${TEMP}alter table t rename to kept`, REFUSED],
  [`${TEMP}alter table t owner to postgres`, REFUSED],
  [`${TEMP}alter table t set schema public`, REFUSED],
  [`${TEMP}alter table t inherit kept`, REFUSED],
  [`${TEMP}create index concurrently on t (a)`, REFUSED],
  ['select pg_sleep(1000)', 'function-reaches'],
  ["create temp table t as select set_config('search_path', 'hidden', false)", 'function-reaches'],
  ['create temp table t (a int default pg_sleep(1))', 'function-reaches'],
  ['create temp table t as select wipe_all()', 'function-may-write'],
  ['create temp table t (a int default wipe_all())', 'function-may-write'],
  [`${TEMP}create index on t (as_owner())`, 'function-may-write'],
  [`${TEMP}update t set a = wipe_all()`, 'function-may-write'],
  [`${TEMP}insert into t values (as_owner())`, 'function-may-write'],
  ["select current_setting('cendra.p1')", 'setting-own'],
  ['select * from kept for update', READING],
];

const scriptOf = (text: string): readonly ScriptStatement[] =>
  statementsIn(tokensOf(text)).map(({ from, to }, at) => {
    const own = { text: text.slice(from, to), moved: [{ out: 0, text: from }] };
    return { step: 's', number: at + 1, ...own, values: [], from, to, looked: own };
  });

async function ran(text: string): Promise<string | undefined> {
  const session = await postgresqlConnector.openScript(settings, secret);
  try {
    let last: string | undefined = 'nothing';
    for (const statement of scriptOf(text)) {
      last = await codeOf(session.run(statement));
      if (last !== 'nothing') break;
    }
    return last;
  } finally {
    await session.close();
  }
}

let before = '';
beforeAll(async () => {
  await madeAnew(
    'guarded_scripts',
    `
      create table kept (a int);
      insert into kept values (1);
      create function wipe_all() returns int language plpgsql as $$begin delete from kept; return 1; end$$;
      create function as_owner() returns int language sql immutable security definer as $$select 1$$;
      create function wiping() returns trigger language plpgsql as $$begin delete from kept; return new; end$$;
      create procedure wipe() language sql as $$delete from kept$$;
      grant select, insert, update, delete, truncate on kept to cendra_read;
      grant create on schema public to cendra_read;
      grant temporary on database guarded_scripts to cendra_read;`,
  );
  before = dumped('guarded_scripts');
});
afterAll(async () => {
  await withSuperuser('postgres', (client) => client.query('drop database guarded_scripts with (force)'));
});

test('there are enough attempts, each once', () => {
  expect(ATTEMPTS.length).toBeGreaterThanOrEqual(70);
  expect(new Set(ATTEMPTS.map(([text]) => text)).size).toBe(ATTEMPTS.length);
});

test('each attempt is refused by its cause when it is described', async () => {
  const found: string[] = [];
  for (const [text, code] of ATTEMPTS) {
    const script = scriptOf(text).map(({ looked: _looked, values: _values, ...each }) => ({ ...each, types: [] }));
    const told = await codeOf(postgresqlConnector.describeScript(settings, secret, script, []));
    if (told !== code) found.push(`${text}: ${told}, not ${code}`);
  }
  expect(found).toEqual([]);
});

test('and by a session that is asked to run it', async () => {
  const found: string[] = [];
  for (const [text, code] of ATTEMPTS) {
    const told = await ran(text);
    if (told !== code) found.push(`${text}: ${told}, not ${code}`);
  }
  expect(found).toEqual([]);
  expect(dumped('guarded_scripts')).toBe(before);
});

test('what computes can write into temp tables only, even where a function may do more and a steward let it run', async () => {
  const session = await postgresqlConnector.openScript(settings, secret, undefined, ['wipe_all()']);
  try {
    const told: (string | undefined)[] = [];
    for (const statement of scriptOf('create temp table t as select wipe_all() as a')) told.push(await codeOf(session.run(statement)));
    for (const statement of scriptOf(`${TEMP}insert into t values (wipe_all())`)) told.push(await codeOf(session.run(statement)));
    expect(told).toEqual(['would-write', 'nothing', 'would-write']);
  } finally {
    await session.close();
  }
  expect(dumped('guarded_scripts')).toBe(before);
});

test('scripts are taken, however they are written', async () => {
  const taken = [
    `drop table if exists figures;\n${TEMP}insert into t select a from kept;\nupdate t set a = a + 1 where a > 0;\ndelete from t where a is null;\nselect * from t`,
    "create temporary table t (id int generated always as identity primary key, a text default 'x' not null, b numeric(8,2) check (b >= 0));\ninsert into t (b) values (1.5), (2) returning id;\nselect * from t order by id",
    'create temp table t (a, b) on commit drop as (select 1, 2 union all select 3, 4);\ncreate unique index i on t (a);\nanalyze t;\nselect * from t',
    'create temp table if not exists t as select 1 as a;\ncreate temp table if not exists t as select 2 as a;\nselect a from t',
    'create local temp table t as table kept with no data;\ninsert into pg_temp.t select 7;\nselect a from pg_temp.t',
    `${TEMP}alter table t add column b int default 3, drop column a;\ninsert into t default values;\ntruncate t;\ndrop table t;\ncreate temp table t as select 1 as a;\nselect a from t`,
    `${TEMP}create temp view v as select a * 2 as b from t;\ninsert into t values (4);\nselect b from v;\ndrop view v;\nselect 1`,
    `${TEMP}merge into t using kept k on t.a = k.a when not matched then insert values (k.a);\nselect a from t`,
    `${TEMP}with moved as (delete from t returning a) insert into t select a from moved;\nselect count(*) from t`,
    'create temp table "Mixed; name" ("a\'b" int); -- said; so\ninsert into "Mixed; name" values (1);\nselect "a\'b" from "Mixed; name"',
    'create temp table kept as select 9 as a;\nselect a from kept;\ninsert into kept values (10);\nselect a from kept',
  ];
  for (const text of taken) expect([text, await ran(text)]).toEqual([text, 'nothing']);
});

test('afterwards the database is the same, and no session is left', async () => {
  expect(dumped('guarded_scripts')).toBe(before);
  const left = await withSuperuser('postgres', (client) =>
    client.query("select count(*) n from pg_stat_activity where datname = 'guarded_scripts' and state <> 'idle'"),
  );
  expect(left.rows).toEqual([{ n: '0' }]);
});
