import type { CallResult, DescribedRoutine, ProcedureStep } from '@cendra/core';
import type { DatasetBody, Person } from './support/cendra';
import { Cendra, eventually, rowsOf, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { demoSource, edit } from './support/datasets';

/** Procedures, cursors and functions that make temp tables: called in a session of their own, which is always taken back. */

type Given = readonly { readonly by: 'value' | 'default' | 'null'; readonly value?: string }[];
interface Tried {
  readonly results: readonly {
    readonly result: CallResult;
    readonly columns: readonly { readonly column: string; readonly sourceType: string }[];
    readonly rows: readonly (readonly (string | null)[])[];
    readonly count: string | null;
  }[];
  readonly messages: readonly { readonly severity: string; readonly text: string }[];
  readonly problems: readonly { readonly code: string; readonly message: string }[];
}

let cendra: Cendra;
let analyst: Person;
let steward: Person;
let source: string;
const schema = unique('sessions');
const own = async (sql: string) => withSuperuser('cooperative', (client) => client.query<string[]>({ text: sql, rowMode: 'array' }));
const CLOSE = 'coop.close_season(integer, refcursor, refcursor)';
const RANKED = 'coop.ranked_hives(integer, numeric)';
const named = (name: string) => `${schema}.${name}`;

beforeAll(async () => {
  cendra = await Cendra.start();
  [analyst, steward] = [await cendra.signIn('analyst'), await cendra.signIn('steward')];
  source = await demoSource(analyst);
  const body = (text: string) => `language plpgsql as $$ ${text} $$`;
  await own(`create schema ${schema};
    grant usage, create on schema ${schema} to cendra_read;
    create table ${schema}.kept (a int); grant select, insert on ${schema}.kept to cendra_read;
    create function ${schema}.several() returns setof refcursor ${body("declare a refcursor := 'first one'; b refcursor := 'second'; begin open a for select 1 as n; return next a; open b for select 'x'::varchar(3) as t, null::numeric(5,1) as d, '{1,2}'::int[] as l, true as y; return next b; end")};
    create function ${schema}.endless() returns setof refcursor ${body("declare c refcursor := 'only'; begin open c for select 1; return query select c from generate_series(1, 100000); end")};
    create function ${schema}.never() returns refcursor ${body("declare c refcursor := 'nobody'; begin return c; end")};
    create procedure ${schema}.writes() ${body('begin insert into ' + schema + '.kept values (1); end')};
    create procedure ${schema}.commits() ${body('begin commit; end')};
    create procedure ${schema}.raises(a int) ${body("begin raise exception 'the season % is closed', a; end")};
    create procedure ${schema}.by_place(int, out bigint, out text) ${body("begin $2 := $1 * 2; $3 := 'twice'; end")};
    create procedure ${schema}.silent(a int) ${body('begin null; end')};
    create function ${schema}.hides() returns int ${body('begin create temp table apiaries (code text); set local search_path = pg_temp; set local statement_timeout = 0; return 7; end')};
    create function ${schema}.sleeps(c out refcursor) returns refcursor ${body('begin open c for select pg_sleep(600); end')};
    create function ${schema}.speaks() returns int stable ${body("begin raise notice 'heard'; raise debug 'not heard'; return 1; end")};
    create function ${schema}.unsaid() returns setof record stable language sql as 'select 1';
    create function ${schema}.wide() returns refcursor ${body(`declare c refcursor; begin open c for execute 'select ' || (select string_agg(n || ' as f' || n, ', ') from generate_series(1, 1000) n); return c; end`)};
    create function ${schema}.many(rows int) returns refcursor ${body('declare c refcursor; begin open c for select n, md5(n::text) from generate_series(1, rows) n; return c; end')}`);
  const signatures = [
    CLOSE,
    RANKED,
    ...[
      'several()',
      'endless()',
      'never()',
      'writes()',
      'commits()',
      'raises(integer)',
      'by_place(integer)',
      'silent(integer)',
      'hides()',
      'sleeps()',
      'wide()',
      'many(integer)',
    ].map(named),
  ];
  expect((await steward.ask('PUT', `/sources/${source}/routines/admitted`, { signatures })).status).toBe(200);
});
afterAll(async () => {
  await own(`drop schema ${schema} cascade`);
  await cendra.stop();
});

const tried = (signature: string, given: Given = []) => analyst.post<Tried>(`/sources/${source}/routines/try`, { signature, given });
const value = (of: string) => ({ by: 'value', value: of }) as const;

const calling = (signature: string, result?: CallResult, given?: Given) =>
  analyst.ask<DatasetBody>('POST', '/datasets', {
    source,
    calls: { signature, ...(result ? { result } : {}), ...(given ? { given } : {}) },
  });

function callOf({ definition }: DatasetBody): ProcedureStep {
  const found = definition.steps.find((each) => each.kind === 'procedure');
  if (found?.kind !== 'procedure') throw new Error('the dataset calls nothing');
  return found;
}

/** A dataset of a call with all fields taken, and the rows of a full run of it, or the codes of what is wrong. */
async function taken(signature: string, result?: CallResult, given: Given = []): Promise<DatasetBody> {
  const { body, status } = await calling(signature, result, given);
  expect(status).toBe(201);
  const step = callOf(body);
  return edit(analyst, body, { kind: 'set step', step: step.id, property: 'taken', from: [], to: step.fields.map((each) => each.id) });
}

async function rowsIn(dataset: DatasetBody): Promise<unknown> {
  const done = await run(analyst, dataset, 'full');
  if (done.state !== 'done') return done.problems.map((each) => each.code);
  return (await rowsOf(analyst, done.result?.id ?? '')).map((row) => row.slice(1));
}

const byRegion = (season: number) =>
  own(`select r.name, sum(h.kilos)::text from coop.harvests h join coop.apiaries a on a.code = h.apiary_code
       join coop.districts d on d.code = a.district_code join coop.regions r on r.code = d.region_code
       where extract(year from h.picked_on) = ${season} group by r.name order by r.name`);

describe('tried once', () => {
  test('a procedure shows the values it gives back, the rows of each cursor, and what it says', async () => {
    const { results, messages, problems } = await tried(CLOSE, [value('2024')]);
    expect(problems).toEqual([]);
    expect(results.map(({ result }) => result)).toEqual([
      { of: 'values' },
      { of: 'cursor', number: 1, name: 'by_member' },
      { of: 'cursor', number: 2, name: 'by_region' },
    ]);
    const [[harvests] = []] = (await own('select count(*)::text from coop.harvests where extract(year from picked_on) = 2024')).rows;
    expect(results[0]?.rows).toMatchObject([[harvests, expect.any(String)]]);
    expect(results[2]?.rows).toEqual((await byRegion(2024)).rows);
    expect(results[1]?.columns.map((each) => each.column)).toEqual(['member', 'name', 'harvests', 'kilos']);
    expect(messages).toEqual([{ severity: 'notice', text: `season 2024 is closed with ${harvests} harvests` }]);
  });

  test('a function shows its first rows and how many there are; a cursor of many only the first', async () => {
    const [ranked] = (await tried(RANKED, [value('2024')])).results;
    expect(ranked?.result).toEqual({ of: 'rows' });
    expect(Number(ranked?.count)).toBeGreaterThan(10);
    expect(ranked?.columns.map((each) => each.column)).toEqual(['place', 'hive', 'kilos']);
    const [many] = (await tried(named('many(integer)'), [value('5000')])).results;
    expect([many?.rows.length, many?.count]).toEqual([200, null]);
    // Of more cursors than anybody looks at no more are fetched than can be named.
    expect((await tried(named('endless()'))).results).toHaveLength(20);
    expect((await tried(named('several()'))).results.map((each) => each.rows)).toEqual([[['1']], [['x', null, '{1,2}', 't']]]);
  });

  test.each([
    ['what it raises, in its words', 'raises(integer)', [value('2024')], ['routine-failed'], 'the season 2024 is closed'],
    ['that it commits', 'commits()', [], ['routine-commits'], 'ends its transaction'],
    ['a cursor that was never opened', 'never()', [], ['cursor-not-open'], 'was not opened'],
    ['a value of another type, before anything runs', 'raises(integer)', [value('soon')], ['value-wrong-type'], '“soon”'],
  ] as const)('tells %s', async (_what, signature, given, codes, words) => {
    const { problems } = await tried(named(signature), given);
    expect(problems.map((each) => each.code)).toEqual(codes);
    expect(problems[0]?.message).toContain(words);
  });

  test('what it writes is taken back', async () => {
    expect((await tried(named('writes()'))).problems).toEqual([]);
    expect((await own(`select count(*)::text from ${schema}.kept`)).rows).toEqual([['0']]);
  });

  test('is refused before a steward lets it, and noted in the audit log', async () => {
    const signature = 'coop.best_apiaries(integer, integer, text[])';
    expect((await tried(signature, [value('2024')])).problems).toMatchObject([{ code: 'routine-not-admitted' }]);
    const audit = await withSuperuser(cendra.database, (client) =>
      client.query<{ detail: string }>("select detail from audit_entry where act = 'tried a routine' order by id"),
    );
    expect(audit.rows.map((each) => JSON.parse(each.detail))).toContainEqual({ routine: CLOSE });
    expect(JSON.stringify(audit.rows)).not.toContain('best_apiaries');
  });
});

describe('as a step', () => {
  test('a cursor’s rows are rows like others: filled from the call, in as many as there are', async () => {
    const regions = await taken(CLOSE, { of: 'cursor', number: 2, name: 'by_region' }, [value('2024')]);
    expect(regions.definition.parameters.map(({ name, startsAs, leftBlank }) => [name, startsAs, leftBlank])).toEqual([
      ['season', ['2024'], 'must be filled'],
    ]);
    expect(await rowsIn(regions)).toEqual((await byRegion(2024)).rows);
    const many = await taken(named('many(integer)'), { of: 'cursor', number: 1, name: '' }, [value('7001')]);
    const done = await run(analyst, many, 'full');
    expect(done.result?.rows).toBe('7001');
    expect(((await rowsIn(many)) as unknown[]).slice(0, 2)).toEqual(
      (await own('select n::text, md5(n::text) from generate_series(1, 2) n')).rows,
    );
  });

  test('what the source says stands beside the run, of a call in the statement too', async () => {
    const said = async (dataset: DatasetBody) => (await run(analyst, dataset, 'full')).stages?.flatMap((each) => each.said ?? []);
    expect(await said(await taken(CLOSE, { of: 'values' }, [value('1850')]))).toEqual([
      { severity: 'warning', text: 'no harvest was picked in 1850' },
      { severity: 'notice', text: 'season 1850 is closed with 0 harvests' },
    ]);
    expect(await said(await taken(named('speaks()')))).toEqual([{ severity: 'notice', text: 'heard' }]);
  });

  test('each type comes back as it was', async () => {
    const second = await taken(named('several()'), { of: 'cursor', number: 2, name: '' });
    expect(callOf(second).fields.map((each) => each.sourceType)).toEqual(['character varying(3)', 'numeric(5,1)', 'integer[]', 'boolean']);
    expect(await rowsIn(second)).toEqual([['x', null, '{1,2}', 'true']]);
  });

  test('the values a procedure gives back are one row, whether they have names or not', async () => {
    const closed = await taken(CLOSE, { of: 'values' }, [value('2024')]);
    const told = await own('select count(*)::text, sum(kilos)::text from coop.harvests where extract(year from picked_on) = 2024');
    expect(await rowsIn(closed)).toEqual(told.rows);
    expect(await rowsIn(await taken(named('by_place(integer)'), { of: 'values' }, [value('21')]))).toEqual([['42', 'twice']]);
  });

  test('a function that makes temp tables gives its rows in a session', async () => {
    const inline = await taken(RANKED, undefined, [value('2024')]);
    expect((await run(analyst, inline, 'full')).state).toBe('failed');
    const ranked = await taken(RANKED, { of: 'rows' }, [value('2024')]);
    const [[hives] = []] = (await own('select count(*)::text from coop.ranked_hives(2024)')).rows;
    expect(((await rowsIn(ranked)) as unknown[]).length).toBe(Number(hives));
    expect((await own("select count(*)::text from pg_class where relname in ('weighed', 'cendra_called')")).rows).toEqual([['0']]);
  });

  test('steps behind it are asked of what it gave, beside tables no temp table of its stands before', async () => {
    const hiding = await taken(named('hides()'), { of: 'rows' });
    expect(await rowsIn(hiding)).toEqual([['7']]);
    const ranked = await taken(CLOSE, { of: 'cursor', number: 1, name: 'by_member' }, [value('2024')]);
    const done = await run(analyst, ranked, 'head');
    const [[members] = []] = (
      await own(`select count(distinct a.member_id)::text from coop.harvests h join coop.apiaries a on a.code = h.apiary_code
                 where extract(year from h.picked_on) = 2024`)
    ).rows;
    expect(done.counts?.at(-1)?.rows).toBe(members);
  });

  test('a result there is none of, and one that gives nothing, are refused; what it writes stays nowhere', async () => {
    const refused = async (signature: string, result?: CallResult) => {
      const { status, body } = await calling(signature, result, [value('2024')]);
      return [status, (body as unknown as { problems: { code: string }[] }).problems.map((each) => each.code)];
    };
    expect(await refused(CLOSE, { of: 'cursor', number: 3, name: '' })).toEqual([422, ['routine-result-unknown']]);
    expect(await refused(named('silent(integer)'))).toEqual([422, ['routine-without-result']]);
    expect(await refused(named('never()'), { of: 'cursor', number: 1, name: '' })).toEqual([422, ['cursor-not-open']]);
    const told = await analyst.post<DescribedRoutine & { problems: { code: string }[] }>(`/sources/${source}/routines/describe`, {
      signature: CLOSE,
      result: { of: 'cursor', number: 1, name: 'by_member' },
    });
    expect(told.problems).toMatchObject([{ code: 'routine-cursors' }]);
  });

  test('a thousand columns are a thousand fields; other ones than before are said', async () => {
    const wide = await taken(named('wide()'), { of: 'cursor', number: 1, name: '' });
    expect(callOf(wide).fields).toHaveLength(1_000);
    expect(((await rowsIn(wide)) as string[][])[0]?.at(-1)).toBe('1000');
    await own(
      `create or replace function ${schema}.wide() returns refcursor language plpgsql as $$ declare c refcursor; begin open c for select 1 as f1; return c; end $$`,
    );
    expect(await rowsIn(wide)).toEqual(['text-columns-changed']);
  });

  test('does nothing but call it, whatever its columns and types are said to be', async () => {
    const more = await analyst.post<Tried>(`/sources/${source}/routines/try`, {
      signature: named('unsaid()'),
      given: [],
      columns: 'n integer), pg_sleep(0.1) as more(m text',
    });
    expect(more.results).toEqual([]);
    expect(more.problems.map((each) => each.code)).toEqual(['function-reaches']);
    const dataset = await taken(CLOSE, { of: 'values' }, [value('2024')]);
    const step = callOf(dataset);
    const forged = step.arguments.map((each, at) => (at === 0 ? { ...each, sourceType: 'integer, pg_sleep(1)' } : each));
    const edited = await edit(analyst, dataset, {
      kind: 'set step',
      step: step.id,
      property: 'arguments',
      from: step.arguments,
      to: forged,
    });
    expect(await rowsIn(edited)).toEqual(['function-reaches']);
    const plain = await taken(CLOSE, { of: 'values' }, [value('2024')]);
    const { id, fields } = callOf(plain);
    const retyped = fields.map((each, at) => (at === 0 ? { ...each, sourceType: 'bigint); select pg_sleep(1' } : each));
    const other = await edit(analyst, plain, { kind: 'set step', step: id, property: 'fields', from: fields, to: retyped });
    expect(await rowsIn(other)).toEqual(['text-columns-changed']);
  });

  test('no step of it runs once the steward’s word is taken back', async () => {
    const dataset = await taken(named('several()'), { of: 'cursor', number: 1, name: '' });
    const { signatures } = await steward
      .ask<{ signatures: string[] }>('PUT', `/sources/${source}/routines/admitted`, { signatures: [CLOSE] })
      .then(({ body }) => body);
    expect(signatures).toEqual([CLOSE]);
    expect(await rowsIn(dataset)).toEqual(['routine-not-admitted']);
  });
});

test('a call nobody waits for is stopped where it runs', async () => {
  await steward.ask('PUT', `/sources/${source}/routines/admitted`, { signatures: [named('sleeps()')] });
  const running = async () => {
    const { rows } = await own("select 1 from pg_stat_activity where query like 'fetch forward%' and state = 'active'");
    return rows.length;
  };
  const leave = new AbortController();
  const asked = fetch(`${cendra.address}/api/sources/${source}/routines/try`, {
    method: 'POST',
    headers: { cookie: analyst.cookie, 'x-cendra-csrf': analyst.csrf, 'content-type': 'application/json' },
    body: JSON.stringify({ signature: named('sleeps()'), given: [] }),
    signal: leave.signal,
  });
  await eventually('the call runs', async () => (await running()) > 0 || undefined);
  leave.abort();
  await expect(asked).rejects.toThrow();
  await eventually('it runs no more', async () => (await running()) === 0 || undefined);
});
