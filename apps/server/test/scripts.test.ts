import type { ToldScript, ToldStatement } from '@cendra/core';
import { addStepAfter } from '@cendra/core';
import type { DatasetBody, Person, RunBody } from './support/cendra';
import { Cendra, ended, rowsOf, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { datasetOfScript, described, scriptOf } from './support/texts';
import { demoSource, edit } from './support/datasets';

/** Scripts as a source runs them: temp tables live for one run, each statement is told, and nothing else changes. */

let cendra: Cendra;
let analyst: Person;
let source: string;

beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
});
afterAll(() => cendra.stop());

const SEASON = `-- Kilos of a season by region, with their share.
create temp table figures (place int primary key, wording text, kilos numeric(14,2), share numeric(5,1));
insert into figures (place, wording, kilos)
select row_number() over (order by r.name), r.name, sum(h.kilos)
from coop.harvests h join coop.apiaries a on a.code = h.apiary_code
join coop.districts d on d.code = a.district_code join coop.regions r on r.code = d.region_code
where extract(year from h.picked_on)::int = :season
group by r.name;
insert into figures (place, wording, kilos) select 99, 'all regions', sum(kilos) from figures;
update figures set share = round(100 * kilos / (select kilos from figures where place = 99), 1);
select place, wording, kilos, share from figures order by place`;

const valuesOf = ({ definition }: DatasetBody, values: Readonly<Record<string, readonly string[]>>) =>
  Object.fromEntries(
    Object.entries(values).map(([name, given]) => [definition.parameters.find((each) => each.name === name)?.id ?? name, given]),
  );

const runScript = (dataset: DatasetBody, values: Readonly<Record<string, readonly string[]>> = {}, to?: number) =>
  analyst.post<ToldScript>('/scripts/run', {
    dataset: dataset.id,
    revision: dataset.revision,
    step: scriptOf(dataset).id,
    values: valuesOf(dataset, values),
    ...(to === undefined ? {} : { to }),
  });

async function rowsWith(dataset: DatasetBody, values: Readonly<Record<string, readonly string[]>> = {}): Promise<unknown> {
  const step = dataset.definition.result ?? '';
  const asked = { dataset: dataset.id, revision: dataset.revision, step, size: 'full', values: valuesOf(dataset, values), slot: 'test' };
  const started = await analyst.ask<RunBody>('POST', '/runs', asked);
  const done = started.status < 300 ? await ended(analyst, started.body.id) : started.body;
  if (done.state !== 'done') return done.problems.map((each) => each);
  return (await rowsOf(analyst, done.result?.id ?? '')).map((row) => row.slice(1));
}

/** The same statements with a season, in one session of the superuser's. */
const byHand = (text: string, season = '2024') =>
  withSuperuser('cooperative', async (client) => {
    await client.query('begin');
    const statements = text.replaceAll(':season', season).split(';');
    let rows: unknown[] = [];
    for (const each of statements) rows = (await client.query<unknown[]>({ text: each, rowMode: 'array' })).rows;
    await client.query('rollback');
    return rows.map((row) => (row as unknown[]).map((cell) => (cell === null ? null : String(cell))));
  });

const written = async (text: string, to: DatasetBody) => {
  const step = scriptOf(to);
  return edit(analyst, to, { kind: 'set step', step: step.id, property: 'sql', from: step.sql, to: { ...step.sql, text } });
};
const tempOf = (statement: ToldStatement | undefined, name: string) => statement?.temps.find((each) => each.name === name);

describe('a script is described without running it', () => {
  test('its fields are those of the last statement, its parameters have the types of what they meet', async () => {
    const dataset = await datasetOfScript(analyst, source, SEASON);
    expect(scriptOf(dataset).fields.map(({ name, sourceType }) => [name, sourceType])).toEqual([
      ['place', 'integer'],
      ['wording', 'text'],
      ['kilos', 'numeric(14,2)'],
      ['share', 'numeric(5,1)'],
    ]);
    expect(dataset.definition.parameters.map(({ name, type }) => [name, type])).toEqual([['season', 'whole number']]);
  });

  test.each([
    [
      'an unknown column in the third statement',
      'create temp table t as select 1 as a;\nselect a from t;\nselect b from t',
      'column-unknown',
      'b',
    ],
    ['a broken one', 'create temp table t as select 1 as a;\nselekt a from t', 'text-broken', 'selekt'],
    ['a table that is made lasting', 'create table t as select 1 as a;\nselect a from t', 'script-makes-lasting', 't'],
    ['a write into a real one', 'delete from coop.harvests;\nselect 1', 'script-writes-outside', 'coop'],
    ['no rows at the end', 'create temp table t (a int)', 'script-without-rows', undefined],
    [
      'a query in a temp table with a wrong name',
      'create temp table t as select kilo from coop.harvests;\nselect * from t',
      'column-unknown',
      'kilo',
    ],
  ])('%s is told at its place', async (_what, text, code, word) => {
    const { problems } = await described(analyst, source, text, [], true);
    const [{ position } = { position: undefined }] = problems.map(({ place }) => place);
    expect(problems.map((each) => each.code)).toEqual([code]);
    if (word !== undefined) expect(text.slice(position?.from, position?.to)).toBe(word);
  });

  test('a parameter cannot stand in what makes a view, and can in a table made of a query', async () => {
    const asked = [{ name: 'season', type: 'whole number' }];
    const view = 'create temp view v as select :season::int as s;\nselect s from v';
    expect((await described(analyst, source, view, asked, true)).problems.map((each) => each.code)).toEqual(['parameter-in-definition']);
    const table = 'create temp table v as select :season::int as s;\nselect s from v';
    expect(await described(analyst, source, table, asked, true)).toMatchObject({
      problems: [],
      met: [{ name: 'season', sourceType: 'integer' }],
    });
  });
});

describe('its rows', () => {
  test('are those the same statements give by hand, whatever is asked of them further on', async () => {
    const dataset = await datasetOfScript(analyst, source, SEASON);
    const expected = await byHand(SEASON);
    expect(expected).toHaveLength(5);
    expect(await rowsWith(dataset, { season: ['2024'] })).toEqual(expected);
    const [place] = scriptOf(dataset).fields;
    const behind = await edit(
      analyst,
      dataset,
      addStepAfter(dataset.definition, scriptOf(dataset).id, {
        id: unique('step'),
        kind: 'criteria',
        name: '',
        off: false,
        inputs: [scriptOf(dataset).id],
        head: 'every one',
        clauses: [
          {
            id: unique('clause'),
            kind: 'condition',
            off: false,
            field: place?.id ?? '',
            operator: 'below',
            operands: [{ kind: 'value', text: '99' }],
            andNulls: false,
          },
        ],
      }),
    );
    expect(await rowsWith(behind, { season: ['2024'] })).toEqual(expected.slice(0, 4));
    const counted = await run(analyst, behind, 'full', valuesOf(behind, { season: ['2024'] }));
    expect(counted.counts?.map((each) => each.rows)).toEqual(['5', '4']);
  });

  test('a temp table may hide a real one without another step seeing it', async () => {
    const hiding = 'create temp table harvests as select 1 as id, 7 as kilos;\nselect id, kilos from harvests';
    expect(await rowsWith(await datasetOfScript(analyst, source, hiding))).toEqual([['1', '7']]);
  });

  test('a failure names its statement, with what the source said', async () => {
    const failing = 'create temp table t as select 4 as a, 0 as b;\nselect a from t;\nupdate t set a = a / b;\nselect a from t';
    const dataset = await datasetOfScript(analyst, source, failing);
    expect(await rowsWith(dataset)).toMatchObject([
      { code: 'statement-failed', message: 'Statement 3: The source could not run it: division by zero.' },
    ]);
  });

  test('nothing of it stays at the source, and no session', async () => {
    await rowsWith(await datasetOfScript(analyst, source, SEASON), { season: ['2024'] });
    const left = await withSuperuser('cooperative', (client) =>
      client.query("select relname from pg_class where relname = 'figures' and relkind = 'r'"),
    );
    expect(left.rows).toEqual([]);
  });
});

describe('statement by statement', () => {
  test('rows, messages and the temp tables are told as they stood, with what changed in them', async () => {
    const dataset = await datasetOfScript(analyst, source, SEASON);
    const { statements, stood } = await runScript(dataset, { season: ['2024'] });
    expect(stood).toBe(0);
    expect(statements.map(({ state, rows }) => [state, rows])).toEqual([
      ['ran', null],
      ['ran', '4'],
      ['ran', '1'],
      ['ran', '5'],
      ['ran', '5'],
    ]);
    expect(statements.map((each) => tempOf(each, 'figures')?.count)).toEqual(['0', '4', '5', '5', '5']);
    const updated = tempOf(statements[3], 'figures')?.touched?.change;
    expect(updated).toMatchObject({ by: 'key', added: 0, gone: 0, changed: 5 });
    if (updated?.by === 'key')
      for (const { row, is, old } of updated.rows) expect([is, old, row[3] === null]).toEqual(['changed', { share: null }, false]);
    expect(tempOf(statements[4], 'figures')?.touched).toBeUndefined();
    expect(statements[4]?.first?.rows).toEqual(await byHand(SEASON));
  });

  test('what stands does not run again, and from the first other statement on it goes on with what stood before', async () => {
    const dataset = await datasetOfScript(analyst, source, SEASON);
    const first = await runScript(dataset, { season: ['2024'] }, 2);
    expect(first.statements.map(({ state }) => state)).toEqual(['ran', 'ran', 'not run', 'not run', 'not run']);
    const second = await runScript(dataset, { season: ['2024'] });
    expect([second.stood, second.asOf]).toEqual([2, first.asOf]);
    // The share of all is computed against half of it: a wrong pass.
    const wrong = await written(SEASON.replace('round(100 *', 'round(200 *'), dataset);
    const third = await runScript(wrong, { season: ['2024'] });
    expect([third.stood, third.asOf]).toEqual([3, first.asOf]);
    const share = (of: ToldScript) => tempOf(of.statements[3], 'figures')?.touched?.rows.map((row) => Number(row[3]));
    expect(share(third)).toEqual(share(second)?.map((each) => expect.closeTo(each * 2, 0)));
    // Another value of a parameter is another statement.
    expect((await runScript(wrong, { season: ['2023'] })).stood).toBe(1);
  });

  test('it stops at the first error; what ran stands, and the rest has not run', async () => {
    const dataset = await datasetOfScript(
      analyst,
      source,
      'create temp table t (a int primary key);\ninsert into t values (1), (2);\ninsert into t values (2);\nselect a from t',
    );
    const told = await runScript(dataset);
    expect(told.statements.map(({ state }) => state)).toEqual(['ran', 'ran', 'failed', 'not run']);
    expect(told.statements[2]?.problems[0]).toMatchObject({
      code: 'statement-failed',
      message: expect.stringContaining('Statement 3: The source could not run it: duplicate key') as string,
    });
    const mended = await written(scriptOf(dataset).sql.text.replace('values (2);', 'values (3);'), dataset);
    const next = await runScript(mended);
    expect([next.stood, next.statements.map(({ state }) => state)]).toEqual([2, ['ran', 'ran', 'ran', 'ran']]);
  });

  test('what would change more than temp tables is refused, naming the statement, before anything runs', async () => {
    const made = await analyst.post<DatasetBody>('/datasets', {
      source,
      text: 'create temp table t as select pg_sleep(0) as a;\ncreate temp table u as select 1 as a;\ndelete from coop.harvests;\nselect a from u',
      script: true,
    });
    const mended = await written(scriptOf(made).sql.text.replace('pg_sleep(0)', '1 / 0'), made);
    const asked = { dataset: mended.id, revision: mended.revision, step: scriptOf(mended).id, values: {} };
    const { status, body } = await analyst.ask<{ problems: { code: string; message: string }[] }>('POST', '/scripts/run', asked);
    expect([status, body.problems[0]?.code]).toEqual([422, 'script-writes-outside']);
    expect(body.problems[0]?.message).toContain('Statement 3: This statement writes into coop.harvests');
  });

  test('messages of functions stand beside their statement', async () => {
    const schema = unique('said');
    await withSuperuser('cooperative', (client) =>
      client.query(`create schema ${schema}; grant usage on schema ${schema} to cendra_read;
        create function ${schema}.telling(a int) returns int stable language plpgsql as $$ begin raise notice 'season %', a; raise warning 'late'; return a; end $$`),
    );
    try {
      const dataset = await datasetOfScript(
        analyst,
        source,
        `create temp table t as select ${schema}.telling(2024) as a;\nselect a from t`,
      );
      const { statements } = await runScript(dataset);
      expect(statements[0]?.messages).toEqual([
        { severity: 'notice', text: 'season 2024' },
        { severity: 'warning', text: 'late' },
      ]);
    } finally {
      await withSuperuser('cooperative', (client) => client.query(`drop schema ${schema} cascade`));
    }
  });

  test('a session is ended when it is asked for, and then everything runs again', async () => {
    const dataset = await datasetOfScript(analyst, source, SEASON);
    await runScript(dataset, { season: ['2024'] });
    const end = () => analyst.post<{ ended: boolean }>('/scripts/end', { dataset: dataset.id, step: scriptOf(dataset).id });
    expect([await end(), await end()]).toEqual([{ ended: true }, { ended: false }]);
    expect((await runScript(dataset, { season: ['2024'] })).stood).toBe(0);
  });
});
