import type { Edit, Followed, Parameter, PartRows, Swept } from '@cendra/core';
import { commonTablesIn, countedTable, describedPart, partOf, statementsIn, tokensOf } from '@cendra/core';
import type { DatasetBody, Person, RunBody } from './support/cendra';
import { Cendra, rowsOf, run } from './support/cendra';
import { superuser, withSuperuser } from './support/cluster';
import { demoSource, edit, writtenCriteria } from './support/datasets';
import { datasetOfText, described, sqlOf } from './support/texts';

let cendra: Cendra;
let analyst: Person;
let source: string;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
});
afterAll(() => cendra.stop());

const own = async (sql: string) =>
  (await withSuperuser('cooperative', (client) => client.query<string[]>({ text: sql, rowMode: 'array' }))).rows;

const parameterOf = (dataset: DatasetBody, name: string): Parameter => {
  const found = dataset.definition.parameters.find((each) => each.name === name);
  if (!found) throw new Error(`there is no parameter ${name}`);
  return found;
};

const rowsWith = async (
  dataset: DatasetBody,
  values: Record<string, readonly string[]> = {},
): Promise<readonly (readonly (string | null)[])[]> => {
  const named = Object.fromEntries(Object.entries(values).map(([name, given]) => [parameterOf(dataset, name).id, given]));
  const done: RunBody = await run(analyst, dataset, 'full', named);
  expect(done).toMatchObject({ state: 'done' });
  return (await rowsOf(analyst, done.result?.id ?? '')).map((row) => row.slice(1)) as readonly (readonly (string | null)[])[];
};

describe('a text is described without running it', () => {
  test('its fields, and what its parameters meet', async () => {
    const answer = await described(
      analyst,
      source,
      'select h.id, h.kilos * 2 as twice, h.picked_on, 1, count(*) over () n from coop.harvests h where h.kilos >= :least and h.grade in (:grades) and h.picked_on between :period',
    );
    expect(answer.problems).toEqual([]);
    expect(answer.columns.map(({ column, named, sourceType }) => [column, named, sourceType])).toEqual([
      ['id', true, 'integer'],
      ['twice', true, 'numeric'],
      ['picked_on', true, 'date'],
      ['?column?', false, 'integer'],
      ['n', true, 'bigint'],
    ]);
    expect(answer.met.map(({ name, sourceType }) => [name, sourceType])).toEqual([
      ['least', 'numeric'],
      ['grades', 'bpchar[]'],
      ['period', 'date'],
      ['period', 'date'],
    ]);
  });

  test.each([
    ['select * from coop.harvest', 'table-unknown', 'coop', 'There is no table coop.harvest that can be read.'],
    ['select kilo from coop.harvests', 'column-unknown', 'kilo', 'There is no column kilo here.'],
    ['select kilos frm coop.harvests h', 'text-broken', 'coop', 'The statement cannot be read from here on.'],
    ['select "größe", :a::int from coop.harvests where :b = 1 and kilo = 1', 'column-unknown', '"größe"', 'There is no column größe here.'],
    ["select 'é' || :a || kilo from coop.harvests", 'column-unknown', 'kilo', 'There is no column kilo here.'],
    ["select 'abc'::int", 'literal-wrong', "'abc'", 'This is no value of the type it stands for.'],
    ['select grade, sum(kilos) from coop.harvests', 'column-ungrouped', 'grade', 'This column is neither grouped by nor in an aggregate.'],
  ])('%s is wrong at a place of it', async (text, code, at, message) => {
    const { problems, columns } = await described(analyst, source, text);
    expect(columns).toEqual([]);
    expect(problems).toMatchObject([{ code, message }]);
    const { from, to } = problems[0]?.place.position ?? { from: 0, to: 0 };
    expect(text.slice(from, to)).toContain(at.replaceAll('"', '').slice(0, 3));
  });

  test('two statements, none, and a text of a megabyte are answered in words', async () => {
    expect((await described(analyst, source, 'select 1; select 2')).problems).toMatchObject([{ code: 'statements-several' }]);
    expect((await described(analyst, source, ' -- nothing')).problems).toMatchObject([{ code: 'text-empty' }]);
    const { status, body } = await analyst.ask<{ problems: { place: object }[] }>('POST', `/sources/${source}/texts/describe`, {
      text: 'x'.repeat(1_000_000),
      parameters: [],
    });
    expect([status, body.problems[0]?.place]).toEqual([400, { pointer: '/text' }]);
  });

  test('who lacks the source is told nothing', async () => {
    const reader = await cendra.signIn('reader');
    const answer = await reader.ask('POST', `/sources/${source}/texts/describe`, { text: 'select 1', parameters: [] });
    expect(answer.status).toBe(403);
  });
});

describe('a text runs as it stands, with values beside it', () => {
  const TEXT = `select h.id, h.kilos, h.grade -- what was picked
    from coop.harvests h
    where h.kilos >= :least
      and h.grade in (:grades)
      and h.picked_on between :period -- both ends
    order by h.id;  `;

  test('its rows are those of the same statement with literals', async () => {
    const dataset = await datasetOfText(analyst, source, TEXT);
    expect(dataset.definition.parameters.map(({ name, type, takes, leftBlank }) => [name, type, takes, leftBlank])).toEqual([
      ['least', 'decimal', 'one', 'condition is off'],
      ['grades', 'text', 'several', 'condition is off'],
      ['period', 'date', 'range', 'condition is off'],
    ]);
    const rows = await rowsWith(dataset, { least: ['20.5'], grades: ['A', 'O\'Br"i{e}n'], period: ['2024-04-01', '2024-07-01'] });
    const expected = await own(
      "select h.id::text, kilos::text, grade from coop.harvests h where kilos >= 20.5 and grade in ('A') and picked_on between timestamp '2024-04-01' and timestamp '2024-07-01' order by h.id",
    );
    expect(rows.length).toBeGreaterThan(10);
    expect(rows).toEqual(expected.slice(0, rows.length));
  });

  test.each([
    [{}, 'true'],
    [{ least: ['20'] }, 'kilos >= 20'],
    [{ grades: ['B'] }, "grade in ('B')"],
    [{ period: ['2024-04-01', ''] }, "picked_on >= '2024-04-01'"],
    [{ period: ['', '2024-04-01'] }, "picked_on <= '2024-04-01'"],
  ])('left blank, a parameter asks nothing: %j', async (values, condition) => {
    const dataset = await datasetOfText(analyst, source, TEXT);
    const named = Object.fromEntries(Object.entries(values).map(([name, given]) => [parameterOf(dataset, name).id, given]));
    const done = await run(analyst, dataset, 'full', named);
    const [[count]] = (await own(`select count(*) from coop.harvests where ${condition}`)) as [[string]];
    expect(done.result?.rows).toBe(count);
  });

  test('columns of one name, without a name, with a quote in it and of odd types are read by their places', async () => {
    const text = `select id, id + 1 as id, 'x', 2 as "a""b", array[1,2] as list, interval '1 day' as while, null as nothing, '{"a":1}'::json as doc,
      numeric '1.50' as open, 1.5::real as narrow from coop.harvests order by 1 limit 1`;
    const dataset = await datasetOfText(analyst, source, text);
    expect(sqlOf(dataset).fields.map((each) => each.name)).toEqual([
      'id',
      'id 2',
      'column 3',
      'a"b',
      'list',
      'while',
      'nothing',
      'doc',
      'open',
      'narrow',
    ]);
    const [row] = await rowsWith(dataset);
    expect(row).toEqual([row?.[0], String(Number(row?.[0]) + 1), 'x', '2', '{1,2}', '1 day', null, '{"a":1}', '1.50', '1.5']);
  });

  test('criteria and sums over it run in the same statement, and agree with SQL', async () => {
    const dataset = await datasetOfText(analyst, source, 'with t as (select * from coop.harvests) select id, kilos, grade from t');
    const fenced: Edit = writtenCriteria(dataset.definition, "kilos >= 20 and grade = 'A'");
    const done = await run(analyst, await edit(analyst, dataset, fenced), 'full');
    const [[count]] = (await own("select count(*) from coop.harvests where kilos >= 20 and grade = 'A'")) as [[string]];
    expect(done.counts?.map((each) => each.rows)).toEqual(['12430', count]);
  });

  test('values are never part of the statement', async () => {
    const dataset = await datasetOfText(analyst, source, 'select count(*) as n from coop.harvests where grade = :g and :g is not null');
    expect(await rowsWith(dataset, { g: ["A' or true --"] })).toEqual([['0']]);
    expect(await rowsWith(dataset, { g: ['A'] })).toEqual(await own("select count(*)::text from coop.harvests where grade = 'A'"));
  });
});

test('a text whose columns are others now is refused before it runs, by what changed', async () => {
  await withSuperuser('cooperative', (client) =>
    client.query(
      'create table coop.shifting (a int, b int); grant select on coop.shifting to public; insert into coop.shifting values (1, 2)',
    ),
  );
  try {
    const dataset = await datasetOfText(analyst, source, 'select * from coop.shifting');
    expect(await rowsWith(dataset)).toEqual([['1', '2']]);
    await withSuperuser('cooperative', (client) =>
      client.query('alter table coop.shifting drop column a; alter table coop.shifting add column a int'),
    );
    const done = await run(analyst, dataset, 'full', {});
    expect(done).toMatchObject({ state: 'failed', problems: [{ code: 'text-columns-changed' }] });
  } finally {
    await withSuperuser('cooperative', (client) => client.query('drop table coop.shifting'));
  }
});

test('a sweep tells a text for each of some values, in one moment, and where a value is none', async () => {
  const text =
    'select h.picked_on, h.kilos from coop.harvests h where h.picked_on > make_date(:season, 4, 1) and h.picked_on < make_date(:season, 10, 1)';
  const dataset = await datasetOfText(analyst, source, text);
  const [picked, kilos] = sqlOf(dataset).fields.map((each) => each.id);
  const swept = await analyst.post<Swept>('/answers', {
    dataset: dataset.id,
    revision: dataset.revision,
    values: {},
    question: {
      kind: 'sweep',
      step: sqlOf(dataset).id,
      parameter: parameterOf(dataset, 'season').id,
      values: [['2024'], ['2025'], ['soon'], ['1999']],
      fields: [picked, kilos],
    },
  });
  const expected = await own(
    `select count(*)::text, min(picked_on)::text, max(picked_on)::text, min(kilos)::text, max(kilos)::text, sum(kilos)::text from coop.harvests
     where picked_on > make_date(extract(year from picked_on)::int, 4, 1) and extract(year from picked_on) in (2024, 2025)
     group by extract(year from picked_on) order by extract(year from picked_on)`,
  );
  const flat = swept.lines.map(({ rows, figures }) => [
    rows,
    ...figures.flatMap(({ least, greatest, sum }, at) => [least, greatest, ...(at === 1 ? [sum] : [])]),
  ]);
  expect(flat.slice(0, 2)).toEqual(expected);
  expect(swept.lines[2]?.problem).toContain('soon');
  expect(flat[3]).toEqual(['0', null, null, null, null, null]);
});

test('a part of a text is swept by itself, in all of its columns', async () => {
  const text = `select grade, sum(kilos) as kilos from coop.harvests where extract(year from picked_on) = :season and kilos > :least group by grade`;
  const dataset = await datasetOfText(analyst, source, text);
  const step = sqlOf(dataset);
  const [statement] = statementsIn(tokensOf(text));
  const chosen = 'kilos > :least';
  const part = statement && partOf(text, statement, { from: text.indexOf(chosen), to: text.indexOf(chosen) + chosen.length });
  if (!part?.ok) throw new Error('it is a part');
  const told = dataset.definition.parameters.map(({ name, type }) => ({ name, type }));
  const swept = await analyst.post<Swept>('/answers', {
    dataset: dataset.id,
    revision: dataset.revision,
    values: { [parameterOf(dataset, 'season').id]: ['2024'] },
    question: {
      kind: 'sweep',
      step: step.id,
      parameter: parameterOf(dataset, 'least').id,
      values: [['5'], ['40']],
      fields: [],
      part: describedPart(part.text, await described(analyst, source, part.text, told)),
    },
  });
  expect(swept.fields.map(({ name }) => name)).toEqual(['left', 'right', 'holds']);
  const [[rows, least, most] = []] = (await own(
    'select count(*)::text, min(kilos)::text, max(kilos)::text from coop.harvests',
  )) as string[][];
  // The rows a condition is asked of are all of them, whatever it says.
  expect(swept.lines.map((each) => [each.rows, each.figures[0]?.least, each.figures[0]?.greatest])).toEqual([
    [rows, least, most],
    [rows, least, most],
  ]);
  expect(swept.lines.map((each) => [Number(each.figures[1]?.least), each.figures[2]?.least, each.figures[2]?.greatest])).toEqual([
    [5, 'false', 'true'],
    [40, 'false', 'true'],
  ]);
  // Of the condition itself, in how many it holds.
  const [[holds] = []] = (await own('select count(*)::text from coop.harvests where kilos > 40')) as string[][];
  expect(swept.lines[1]?.figures[2]?.sum).toBe(holds);
});

test('a duplicated text stands on parameters and fields of its own', async () => {
  const dataset = await datasetOfText(analyst, source, 'select id from coop.harvests where grade = :g');
  const copy = await analyst.post<DatasetBody>(`/datasets/${dataset.id}/copies`);
  const whole = await analyst.get<DatasetBody>(`/datasets/${copy.id}`);
  const [before, now] = [sqlOf(dataset), sqlOf(whole)];
  expect(now.sql).toEqual({ text: before.sql.text, refs: [{ name: 'g', parameter: whole.definition.parameters[0]?.id }] });
  expect(now.fields[0]?.id).not.toBe(before.fields[0]?.id);
});

test('renaming a parameter rewrites the text, and undoing it restores the text exactly', async () => {
  const text = "select id from coop.harvests where grade = :g -- :g stays here\n and ':g' <> grade and kilos > 1";
  const plain = await datasetOfText(analyst, source, text);
  const { id } = parameterOf(plain, 'g');
  const sweep = { id: 'kept', name: 'grades', parameter: id, values: 'A, B', fields: [], part: 'grade = :g' };
  const dataset = await edit(analyst, plain, { kind: 'set step', step: sqlOf(plain).id, property: 'sweeps', from: undefined, to: [sweep] });
  const renamed = await edit(analyst, dataset, { kind: 'rename parameter', parameter: id, from: 'g', to: 'sort_of' });
  expect(sqlOf(renamed).sql.text).toBe(text.replace('= :g', '= :sort_of'));
  // What is swept is found again by its words.
  expect(sqlOf(renamed).sweeps?.map((each) => each.part)).toEqual(['grade = :sort_of']);
  const back = await edit(analyst, renamed, { kind: 'rename parameter', parameter: id, from: 'sort_of', to: 'g' });
  expect(sqlOf(back)).toEqual(sqlOf(dataset));
});

test('a part of a text runs alone, with the values in use, in the moment of the others', async () => {
  const text = 'with picked as (select * from coop.harvests where grade = :g) select id from picked where kilos > 10';
  const dataset = await datasetOfText(analyst, source, text);
  const [statement] = statementsIn(tokensOf(text));
  if (!statement) throw new Error('there is a statement');
  const [table] = commonTablesIn(statement);
  const condition = partOf(text, statement, { from: text.indexOf('kilos > 10'), to: text.length });
  const texts = [...(table ? [countedTable(text, statement, table)] : []), ...(condition.ok ? [condition.text] : [])];
  const parts = await Promise.all(texts.map(async (each) => describedPart(each, await described(analyst, source, each))));
  const asking = (more: object[]) =>
    analyst.ask<readonly PartRows[] & { problems?: readonly { code: string }[] }>('POST', '/answers', {
      dataset: dataset.id,
      revision: dataset.revision,
      values: { [parameterOf(dataset, 'g').id]: ['A'] },
      question: { kind: 'parts', step: sqlOf(dataset).id, parts: [...parts, ...more] },
    });
  const { body } = await asking([]);
  expect(body[0]?.rows).toEqual(await own("select count(*)::text from coop.harvests where grade = 'A'"));
  expect(body[1]?.fields.map((each) => each.name)).toEqual(['left', 'right', 'holds']);
  expect(body[1]?.rows).toHaveLength(200);
  expect(
    body[1]?.rows.every(([left, right, holds]) => right === '10' && (left === null ? holds === null : holds === String(Number(left) > 10))),
  ).toBe(true);
  const refused = await asking([{ text: 'delete from coop.harvests', met: {}, fields: parts[0]?.fields ?? [] }]);
  expect([refused.status, refused.body.problems?.[0]?.code]).toEqual([422, 'text-not-reading']);
});

test('a text whose table is locked is told so within the time a lock is waited for', async () => {
  const client = await superuser('cooperative');
  try {
    await client.query('create table coop.locked (a int); grant select on coop.locked to public');
    await client.query('begin; lock table coop.locked in access exclusive mode');
    const { problems, columns } = await described(analyst, source, 'select * from coop.locked');
    expect([problems[0]?.code, columns]).toEqual(['source-locked', []]);
  } finally {
    await client.query('rollback; drop table if exists coop.locked');
    await client.end();
  }
}, 60_000);

test('a row of a text is followed by a field said to be its key, and told why it was dropped', async () => {
  const text = "select id, kilos, kilos > 0 as any, '-0'::float8 as none from coop.harvests";
  const dataset = await datasetOfText(analyst, source, text, (made) => {
    const { id, key, fields } = sqlOf(made);
    return [{ kind: 'set step', step: id, property: 'key', from: key, to: fields.slice(0, 1).map((each) => each.id) }];
  });
  const behind = await edit(analyst, dataset, writtenCriteria(dataset.definition, 'kilos >= 1000'));
  const followed = await analyst.post<Followed>('/answers', {
    dataset: behind.id,
    revision: behind.revision,
    values: {},
    question: { kind: 'follow', step: behind.definition.steps[1]?.id, identity: [{ field: sqlOf(behind).fields[0]?.id, value: '17' }] },
  });
  expect(followed.steps.map(({ arrived, present }) => [arrived, present])).toEqual([
    [1, 1],
    [1, 0],
  ]);
  expect(followed.steps[1]?.dropped[0]?.clauses).toHaveLength(1);
  // As the rows show it, whatever words the source has for yes and for zero.
  expect(followed.source.rows[0]?.slice(2)).toEqual(['true', '0']);
});
