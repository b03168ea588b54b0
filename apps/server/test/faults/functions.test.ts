import type { ProcedureStep } from '@cendra/core';
import type { DatasetBody, Person, RunBody } from '../support/cendra';
import { Cendra, ended, eventually, rowsOf } from '../support/cendra';
import { unique, withSuperuser } from '../support/cluster';
import { demoSource, edit } from '../support/datasets';

/** What a function of a source does to a run is the function's own: it can be stopped, ends within its limits, and leaves nothing. */

let cendra: Cendra;
let analyst: Person;
let source: string;
const schema = unique('hurt');
const own = async (sql: string) => withSuperuser('cooperative', (client) => client.query<string[]>({ text: sql, rowMode: 'array' }));

beforeAll(async () => {
  cendra = await Cendra.start({ limits: { statementTime: 4_000, resultRows: 20_000 } });
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
  const columns = Array.from({ length: 1_000 }, (_each, at) => `c${at} int`).join(', ');
  const values = Array.from({ length: 1_000 }, (_each, at) => `${at}`).join(', ');
  await own(`create schema ${schema};
    grant usage on schema ${schema} to cendra_read;
    create domain ${schema}.share as numeric check (value between 0 and 1);
    create type ${schema}.pair as (a int, b text);
    create function ${schema}.sleeping() returns int stable language sql as 'select 1 from pg_sleep(3600)';
    create function ${schema}.looping() returns int stable language plpgsql as 'begin loop end loop; end';
    create function ${schema}.many() returns setof bigint stable language sql as 'select g from generate_series(1, 200000) g';
    create function ${schema}.raising() returns int stable language plpgsql as $$ begin raise exception 'no such season'; end $$;
    create function ${schema}.wide() returns table (${columns}) stable language sql as 'select ${values}';
    create function ${schema}.typed(s ${schema}.share, p ${schema}.pair, l ${schema}.pair[]) returns table (s ${schema}.share, b text, n int) stable language sql as
      'select s, (p).b, cardinality(l)'`);
});
afterAll(async () => {
  await own(`drop schema ${schema} cascade`);
  await cendra.stop();
});

const callOf = ({ definition }: DatasetBody): ProcedureStep => definition.steps[0] as ProcedureStep;

async function calling(signature: string): Promise<DatasetBody> {
  const made = await analyst.post<DatasetBody>('/datasets', { source, calls: { signature: `${schema}.${signature}` } });
  const step = callOf(made);
  return edit(analyst, made, { kind: 'set step', step: step.id, property: 'taken', from: [], to: step.fields.map((each) => each.id) });
}

const start = (dataset: DatasetBody, values: Readonly<Record<string, readonly string[]>> = {}) =>
  analyst.post<RunBody>('/runs', {
    dataset: dataset.id,
    revision: dataset.revision,
    step: callOf(dataset).id,
    size: 'full',
    values,
    slot: unique('slot'),
  });

const atWork = async (name: string) =>
  Number(
    (
      await own(
        `select count(*) from pg_stat_activity where state = 'active' and usename = 'cendra_read' and query like '%${schema}%${name}%'`,
      )
    ).rows[0]?.[0],
  );

test.each(['sleeping()', 'looping()'])('%s is stopped at the source when its run is', async (signature) => {
  const started = await start(await calling(signature));
  const name = signature.slice(0, -2);
  await eventually('it is at work', async () => (await atWork(name)) > 0);
  expect((await analyst.post<RunBody>(`/runs/${started.id}/cancel`)).state).toBe('cancelled');
  await eventually('nothing of it is left', async () => (await atWork(name)) === 0);
});

test('one that goes on longer than a statement may is ended, and says so', async () => {
  const started = await start(await calling('sleeping()'));
  const done = await ended(analyst, started.id);
  expect(done).toMatchObject({ state: 'failed', problems: [{ code: 'statement-too-long' }] });
  expect(await atWork('sleeping')).toBe(0);
});

test('one that gives more than a result may hold is cut there', async () => {
  const done = await ended(analyst, (await start(await calling('many()'))).id);
  expect(done).toMatchObject({ state: 'done', result: { cut: 'rows', complete: false } });
  await eventually('nothing of it is left', async () => (await atWork('many')) === 0);
});

test('what it raises ends its run with its words, and no other', async () => {
  const done = await ended(analyst, (await start(await calling('raising()'))).id);
  expect(done.state).toBe('failed');
  expect(JSON.stringify(done)).toContain('no such season');
});

test('a thousand columns are a thousand fields', async () => {
  const dataset = await calling('wide()');
  expect(callOf(dataset).fields).toHaveLength(1_000);
  const done = await ended(analyst, (await start(dataset)).id);
  expect(done.state).toBe('done');
  expect((await rowsOf(analyst, done.result?.id ?? ''))[0]?.slice(-1)).toEqual(['999']);
});

test('arguments of domains, composite types and lists of them are given as the source writes them', async () => {
  const dataset = await calling(`typed(${schema}.share, ${schema}.pair, ${schema}.pair[])`);
  const id = (name: string) => dataset.definition.parameters.find((each) => each.name === name)?.id ?? '';
  const given = { [id('s')]: ['0.25'], [id('p')]: ['(7,seven)'], [id('l')]: ['(1,one)', '(2,two)'] };
  const done = await ended(analyst, (await start(dataset, given)).id);
  expect(done).toMatchObject({ state: 'done' });
  expect((await rowsOf(analyst, done.result?.id ?? '')).map((row) => row.slice(1))).toEqual([['0.250000', 'seven', '2']]);
  const wrong = await ended(analyst, (await start(dataset, { ...given, [id('s')]: ['7'] })).id);
  expect(wrong.state).toBe('failed');
  expect(JSON.stringify(wrong)).toMatch(/share/);
});
