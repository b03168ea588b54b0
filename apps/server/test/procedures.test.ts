import type { DescribedRoutine, GivenArgument, Problem, ProcedureStep } from '@cendra/core';
import { giveArgument, takeCallOver } from '@cendra/core';
import type { DatasetBody, Person, RunBody } from './support/cendra';
import { Cendra, ended, rowsOf, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { demoSource, edit } from './support/datasets';

interface Routine {
  readonly name: string;
  readonly signature: string;
  readonly kind: string;
  readonly mayWrite: boolean;
  readonly admitted: boolean;
  readonly comment: string;
  readonly arguments: readonly {
    readonly name: string;
    readonly sourceType: string;
    readonly several: boolean;
    readonly startsAs: string | null;
  }[];
}
type Described = DescribedRoutine & { readonly problems: readonly { readonly code: string; readonly message: string }[] };

let cendra: Cendra;
let analyst: Person;
let steward: Person;
let source: string;
/** Functions of a schema of their own, so that the demo's stay as they are. */
const schema = unique('calls');
const own = async (sql: string) => withSuperuser('cooperative', (client) => client.query<string[]>({ text: sql, rowMode: 'array' }));

beforeAll(async () => {
  cendra = await Cendra.start();
  [analyst, steward] = [await cendra.signIn('analyst'), await cendra.signIn('steward')];
  source = await demoSource(analyst);
  await own(`create schema ${schema};
    grant usage on schema ${schema} to cendra_read;
    create function ${schema}.one(a int, b text default 'x') returns table (n int, t text) stable language sql as 'select a, b';
    create function ${schema}.listed(of int[]) returns table (n int) stable language sql as 'select unnest(of)';
    create function ${schema}.joined(words text) returns text stable language sql as 'select words';
    create function ${schema}.unnamed(int, int default 7) returns table (s int) stable language sql as 'select $1 + $2';
    create function ${schema}.given(a int, out twice int, out thrice int) stable language sql as 'select a * 2, a * 3';
    create function ${schema}.unsaid(a int) returns setof record stable language sql as 'select a, ''word''::text';
    create function ${schema}.counting() returns int volatile language sql as 'select 1';
    create function ${schema}.writing() returns int volatile language plpgsql as $$ begin create temp table left_behind (a int); return 1; end $$;
    create function ${schema}.raising(a int) returns int stable language plpgsql as $$ begin raise exception 'the season % is closed', a using hint = 'a season that is open'; end $$;
    create function ${schema}.misspelt(a int) returns numeric stable language plpgsql as $$ begin return (select sum(kilo) from coop.harvests); end $$;
    create function ${schema}.revoked(a int) returns int stable language plpgsql as $$ begin return a; end $$;
    create function ${schema}.cursor_of() returns refcursor stable language plpgsql as $$ declare c refcursor; begin open c for select 1; return c; end $$;
    create procedure ${schema}.doing() language sql as 'select 1';
    create function ${schema}.changing(a int) returns table (n int, gone text) stable language sql as 'select a, ''g''::text';
    create function ${schema}.hidden(a int) returns int stable language sql as 'select a';
    revoke execute on function ${schema}.hidden from public`);
});
afterAll(async () => {
  await own(`drop schema ${schema} cascade`);
  await cendra.stop();
});

const listed = (search: string) =>
  analyst
    .get<{ routines: readonly Routine[] }>(`/sources/${source}/routines?search=${encodeURIComponent(search)}`)
    .then((each) => each.routines);
const describe_ = (signature: string, columns?: string) =>
  analyst.post<Described>(`/sources/${source}/routines/describe`, { signature, ...(columns === undefined ? {} : { columns }) });
const calling = (signature: string, columns?: string) =>
  analyst.post<DatasetBody>('/datasets', { source, calls: { signature, ...(columns === undefined ? {} : { columns }) } });

function callOf({ definition }: DatasetBody): ProcedureStep {
  const found = definition.steps.find((each) => each.kind === 'procedure');
  if (found?.kind !== 'procedure') throw new Error('the dataset calls nothing');
  return found;
}

/** All its fields taken, and arguments given as said, by name. */
async function withGiven(dataset: DatasetBody, given: Readonly<Record<string, GivenArgument>> = {}): Promise<DatasetBody> {
  const step = callOf(dataset);
  const taking = { kind: 'set step', step: step.id, property: 'taken', from: step.taken, to: step.fields.map((each) => each.id) } as const;
  let now = await edit(analyst, dataset, taking);
  for (const [name, to] of Object.entries(given)) {
    const at = callOf(now).arguments.findIndex((each, index) => (each.name || `${index}`) === name);
    now = await edit(analyst, now, ...giveArgument(now.definition, callOf(now), at, to));
  }
  return now;
}

const value = (of: string): GivenArgument => ({ by: 'value', value: of });
const idOf = ({ definition }: DatasetBody, name: string) => definition.parameters.find((each) => each.name === name)?.id ?? '';

/** The rows, or the codes of what is wrong, before it is run or when it was. */
async function rowsWith(dataset: DatasetBody, values: Readonly<Record<string, readonly string[]>> = {}): Promise<unknown> {
  const named = Object.fromEntries(Object.entries(values).map(([name, given]) => [idOf(dataset, name), given]));
  const step = callOf(dataset).id;
  const asked = { dataset: dataset.id, revision: dataset.revision, step, size: 'full', values: named, slot: 'test' };
  const started = await analyst.ask<RunBody>('POST', '/runs', asked);
  const done = started.status < 300 ? await ended(analyst, started.body.id) : started.body;
  if (done.state !== 'done') return done.problems.map((each) => each.code);
  return (await rowsOf(analyst, done.result?.id ?? '')).map((row) => row.slice(1));
}

describe('a source tells its routines', () => {
  test('by name, argument or comment, with what each takes', async () => {
    const [found, ...others] = await listed('settlement season');
    expect(others).toEqual([]);
    expect(found).toMatchObject({
      name: 'member_settlement',
      signature: 'coop.member_settlement(integer, integer)',
      kind: 'function',
      mayWrite: false,
    });
    expect(found?.arguments.map((each) => [each.name, each.sourceType, each.startsAs])).toEqual([
      ['member', 'integer', null],
      ['season', 'integer', null],
    ]);
    const [best] = await listed('best_apiaries');
    expect(best).toMatchObject({ mayWrite: true, admitted: false, comment: 'The apiaries with the most kilos of a season' });
    expect(best?.arguments.map((each) => [each.name, each.several, each.startsAs])).toEqual([
      ['season', false, null],
      ['places', false, '5'],
      ['grades', true, "'{A,B}'::text[]"],
    ]);
  });

  test('with their text, and the text of a view', async () => {
    const told = await analyst.get<{ text: string }>(
      `/sources/${source}/routines/text?signature=${encodeURIComponent('coop.yield_by_region(integer)')}`,
    );
    expect(told.text).toContain('CREATE OR REPLACE FUNCTION coop.yield_by_region(season integer)');
    await own(`create view ${schema}.seen as select code from coop.apiaries where shared; grant select on ${schema}.seen to cendra_read`);
    expect((await analyst.get<{ text: string }>(`/sources/${source}/tables/${schema}/seen/text`)).text).toContain('WHERE apiaries.shared');
    expect((await analyst.ask('GET', `/sources/${source}/tables/coop/apiaries/text`)).status).toBe(404);
  });

  test('but none that may not be called', async () => {
    expect(await listed(`${schema}.hidden`)).toEqual([]);
    expect((await analyst.ask('POST', `/sources/${source}/routines/describe`, { signature: `${schema}.hidden(integer)` })).status).toBe(
      404,
    );
  });
});

describe('a function as a step', () => {
  test('gives the rows SQL gives, with its argument as a parameter', async () => {
    const dataset = await withGiven(await calling('coop.yield_by_region(integer)'));
    expect(dataset.definition.parameters).toMatchObject([
      { name: 'season', type: 'whole number', takes: 'one', leftBlank: 'must be filled' },
    ]);
    const expected = (await own('select * from coop.yield_by_region(2024)')).rows;
    expect(expected.length).toBeGreaterThan(0);
    expect(await rowsWith(dataset, { season: ['2024'] })).toEqual(expected);
    expect(await rowsWith(dataset)).toEqual(['value-required']);
  });

  test('hands on only what is taken', async () => {
    const dataset = await calling('coop.yield_by_region(integer)');
    const step = callOf(dataset);
    expect(step.fields.map((each) => each.name)).toEqual(['region', 'harvests', 'kilos']);
    const kilos = step.fields[2]?.id ?? '';
    const taken = await edit(analyst, dataset, { kind: 'set step', step: step.id, property: 'taken', from: [], to: [kilos] });
    expect(((await rowsWith(taken, { season: ['2024'] })) as unknown[][])[0]).toHaveLength(1);
  });

  test.each([
    ['a default is left to it', 'one(integer, text)', { a: value('3'), b: { by: 'default' } }, [['3', 'x']]],
    ['null is passed where it is said', 'one(integer, text)', { a: value('3'), b: { by: 'null' } }, [['3', null]]],
    ['a value stays a value', 'one(integer, text)', { a: value('3'), b: value("it's; drop $1 :a") }, [['3', "it's; drop $1 :a"]]],
    ['several go as a list', 'listed(integer[])', { of: value('1, 2,3') }, [['1'], ['2'], ['3']]],
    ['without names they go by place', 'unnamed(integer, integer)', { 0: value('1'), 1: { by: 'default' } }, [['8']]],
    ['what comes out of it are fields', 'given(integer)', { a: value('2') }, [['4', '6']]],
  ] as const)('%s', async (_what, signature, given, rows) => {
    const dataset = await withGiven(await calling(`${schema}.${signature}`), given);
    expect(await rowsWith(dataset)).toEqual(rows);
  });

  test('a blank parameter leaves its argument to the default, and is null where there is none', async () => {
    const dataset = await withGiven(await calling(`${schema}.one(integer, text)`));
    expect(dataset.definition.parameters.map((each) => [each.name, each.leftBlank])).toEqual([
      ['a', 'must be filled'],
      ['b', 'condition is off'],
    ]);
    expect(await rowsWith(dataset, { a: ['5'] })).toEqual([['5', 'x']]);
    expect(await rowsWith(dataset, { a: ['5'], b: ['given'] })).toEqual([['5', 'given']]);
    const a = dataset.definition.parameters.find((each) => each.name === 'a');
    const asNull = await edit(analyst, dataset, {
      kind: 'set parameter',
      parameter: a?.id ?? '',
      property: 'leftBlank',
      from: 'must be filled',
      to: 'matches empty',
    });
    expect(await rowsWith(asNull)).toEqual([[null, 'x']]);
  });

  test('several values go as a list, or as one text with commas; another type and a range are refused in words', async () => {
    const list = await withGiven(await calling(`${schema}.listed(integer[])`));
    expect(await rowsWith(list, { of: ['4', '5'] })).toEqual([['4'], ['5']]);
    const takes = async (signature: string, of: string, to: 'several' | 'range') => {
      const made = await withGiven(await calling(`${schema}.${signature}`));
      const parameter = idOf(made, of);
      return edit(analyst, made, { kind: 'set parameter', parameter, property: 'takes', from: 'one', to });
    };
    expect(await rowsWith(await takes('joined(text)', 'words', 'several'), { words: ['a', 'b'] })).toEqual([['a,b']]);
    expect(await rowsWith(await takes('given(integer)', 'a', 'several'), { a: ['1', '2'] })).toEqual(['argument-takes']);
    expect(await rowsWith(await takes('given(integer)', 'a', 'range'), { a: ['1', '2'] })).toEqual(['argument-takes']);
    const wrong = await withGiven(await calling(`${schema}.given(integer)`), { a: value('one') });
    expect(await rowsWith(wrong)).toEqual(['value-wrong-type']);
  });

  test('one that does not say its columns is asked for them', async () => {
    expect((await describe_(`${schema}.unsaid(integer)`)).problems).toMatchObject([{ code: 'routine-columns-unsaid' }]);
    expect((await describe_(`${schema}.unsaid(integer)`, 'n')).problems).toMatchObject([{ code: 'routine-columns-unread' }]);
    const dataset = await withGiven(await calling(`${schema}.unsaid(integer)`, 'n integer, word text'), { a: value('9') });
    expect(await rowsWith(dataset)).toEqual([['9', 'word']]);
    const answer = await analyst.ask('POST', '/datasets', {
      source,
      calls: { signature: `${schema}.unsaid(integer)`, columns: 'n integer); drop table x --' },
    });
    expect(answer.status).toBe(422);
  });

  test('what it raises is told in its words', async () => {
    const dataset = await withGiven(await calling(`${schema}.raising(integer)`), { a: value('2024') });
    const done = await run(analyst, dataset, 'full');
    expect(done.state).toBe('failed');
    expect(done.problems).toMatchObject([
      { code: 'routine-failed', message: 'What it calls stopped: the season 2024 is closed.', expected: 'a season that is open' },
    ]);
  });

  test('a wrong name in its own text is no column a step reads, and the place it stands at is told', async () => {
    const dataset = await withGiven(await calling(`${schema}.misspelt(integer)`), { a: value('1') });
    const done = await run(analyst, dataset, 'full');
    expect(done.problems).toMatchObject([{ code: 'routine-failed', message: 'What it calls stopped: column "kilo" does not exist.' }]);
    const tried = await analyst.ask<{ problems: readonly Problem[] }>('POST', `/sources/${source}/routines/try`, {
      signature: `${schema}.misspelt(integer)`,
      given: [value('1')],
    });
    expect(tried.body.problems).toMatchObject([{ code: 'routine-failed', detail: expect.stringContaining('line 1') as string }]);
  });

  test('one the user of the source may not call any more says that', async () => {
    const dataset = await withGiven(await calling(`${schema}.revoked(integer)`), { a: value('1') });
    await own(`revoke execute on function ${schema}.revoked(int) from public, cendra_read`);
    expect((await run(analyst, dataset, 'full')).problems).toMatchObject([
      { code: 'rights-missing', message: 'The source’s user may not call this function.', expected: 'the right to execute it' },
    ]);
  });
});

describe('what may do more than read', () => {
  test.each([
    ['counting()', 'routine-not-admitted'],
    ['cursor_of()', 'routine-cursors'],
    ['doing()', 'routine-not-admitted'],
  ])('%s is refused with why', async (signature, code) => {
    expect((await describe_(`${schema}.${signature}`)).problems).toMatchObject([{ code }]);
    const answer = await analyst.ask<{ problems: unknown }>('POST', '/datasets', {
      source,
      calls: { signature: `${schema}.${signature}` },
    });
    expect([answer.status, answer.body.problems]).toMatchObject([422, [{ code }]]);
  });

  test('runs once a steward says so by its signature, and still cannot write; taken back, it is refused again', async () => {
    const signature = 'coop.best_apiaries(integer, integer, text[])';
    const admit = (signatures: readonly string[]) => steward.ask('PUT', `/sources/${source}/routines/admitted`, { signatures });
    expect((await analyst.ask('PUT', `/sources/${source}/routines/admitted`, { signatures: [signature] })).status).toBe(403);
    expect((await admit([signature, `${schema}.writing()`])).status).toBe(200);
    const dataset = await withGiven(await calling(signature), { season: value('2024'), places: value('3'), grades: value('A') });
    const expected = (await own("select * from coop.best_apiaries(2024, 3, '{A}')")).rows;
    expect(expected).toHaveLength(3);
    expect(await rowsWith(dataset)).toEqual(expected);
    const writing = await withGiven(await calling(`${schema}.writing()`));
    expect((await run(analyst, writing, 'full')).state).toBe('failed');
    expect((await own("select count(*) from pg_class where relname = 'left_behind'")).rows).toEqual([['0']]);
    await admit([]);
    expect(await rowsWith(await edit(analyst, dataset, { kind: 'set title', from: dataset.definition.title, to: 'again' }))).toEqual([
      'function-may-write',
    ]);
    const audit = await withSuperuser(cendra.database, (client) =>
      client.query<{ detail: string }>("select detail from audit_entry where act = 'said which routines may run' order by id"),
    );
    expect(audit.rows.map((each) => JSON.parse(each.detail))).toEqual([{ routines: [signature, `${schema}.writing()`] }, { routines: [] }]);
  });
});

describe('a function that changed since', () => {
  test('says what, and can be accepted with its fields and arguments kept by name', async () => {
    const dataset = await withGiven(await calling(`${schema}.changing(integer)`), { a: value('1') });
    const known = () =>
      analyst.get<readonly { state: string; entry?: { gives: string; body: string } }[]>(`/datasets/${dataset.id}/routines`);
    expect(await known()).toMatchObject([{ state: 'known', entry: { gives: callOf(dataset).gives, body: callOf(dataset).body } }]);
    await own(`drop function ${schema}.changing(int);
      create function ${schema}.changing(a int, more int default 2) returns table (n int, fresh int) stable language sql as 'select a, more'`);
    expect(await known()).toMatchObject([{ state: 'gone' }]);
    await own(`drop function ${schema}.changing(int, int);
      create function ${schema}.changing(a int) returns table (n int, fresh int) stable language sql as 'select a, 8'`);
    const [now] = await known();
    expect(now?.entry?.gives).toBe('TABLE(n integer, fresh integer)');
    expect(await rowsWith(dataset)).toEqual(['text-columns-changed']);
    const step = callOf(dataset);
    const over = takeCallOver(step, await describe_(`${schema}.changing(integer)`), () => unique('field'));
    expect(over.gone.map((each) => each.name)).toEqual(['gone']);
    expect(over.fields[0]?.id).toBe(step.fields[0]?.id);
    const accepted = await edit(analyst, dataset, ...over.edits);
    expect(callOf(accepted).arguments[0]?.given).toEqual(value('1'));
    expect(await rowsWith(await withGiven(accepted))).toEqual([['1', '8']]);
  });
});
