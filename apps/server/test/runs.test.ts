import type { Person, ProblemBody, RunBody } from './support/cendra';
import { Cendra, ended, eventually, postgresqlAt, rowsOf, run } from './support/cendra';
import { superuser, unique, withSuperuser } from './support/cluster';
import { askingWith, datasetOf, demoSource, edit, fieldOf, parameter, tableOf, writtenCriteria } from './support/datasets';
import type { OwnReader } from './support/own-reader';
import { ownReader } from './support/own-reader';

let cendra: Cendra;
let analyst: Person;
let reader: OwnReader;
let source: string;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  reader = await ownReader(cendra);
  source = reader.source;
});
afterAll(() => cendra.stop());

const own = async (sql: string) =>
  (await withSuperuser('cooperative', (client) => client.query<string[]>({ text: sql, rowMode: 'array' }))).rows;

test('a head run gives the first rows and the exact counts of every step', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests');
  const criteria = await edit(analyst, dataset, writtenCriteria(dataset.definition, 'kilos >= 5'));
  const done = await run(analyst, criteria, 'head');
  const [[kept]] = (await own('select count(*) from coop.harvests where kilos >= 5')) as [[string]];
  expect(done).toMatchObject({ state: 'done', result: { rows: '1000', complete: false, cut: null } });
  expect(done.counts?.map((each) => each.rows)).toEqual(['12430', kept]);
});

test('a full run gives every row, equal to the database’s own, and sorts them', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'kilos']);
  const done = await run(analyst, dataset, 'full');
  expect(done.result).toMatchObject({ rows: '12430', complete: true });
  const id = done.result?.id ?? '';
  const expected = await own('select h.id::text, h.kilos::text from coop.harvests h order by h.kilos desc nulls last, h.id limit 200');
  const sorted = await rowsOf(
    analyst,
    id,
    `offset=0&limit=200&sort=${fieldOf(dataset.definition, 'kilos')}:desc,${fieldOf(dataset.definition, 'id')}`,
  );
  expect(sorted.map((row) => row.slice(1))).toEqual(expected);
  const page = await rowsOf(analyst, id, 'offset=12400&limit=100');
  expect(page.map((row) => row[0])).toEqual(Array.from({ length: 30 }, (_, at) => String(12_400 + at)));
});

test('the take-away has every row', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'batch']);
  const done = await run(analyst, dataset, 'full');
  const csv = await analyst.ask('GET', `/results/${done.result?.id}/file?format=csv&name=Season%20%22A%22/2025`);
  expect(csv.text.trimEnd().split('\n')).toHaveLength(12_431);
  expect(csv.headers.get('content-disposition')).toContain(encodeURIComponent('Season A2025.csv'));
});

test('what the rows are is taken away beside a CSV, which has no place for it', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'kilos', 'picked_on']);
  const done = await run(analyst, await edit(analyst, dataset, writtenCriteria(dataset.definition, 'kilos >= 20')), 'full');
  const asked = `name=Heavy%20ones&title=${encodeURIComponent('Harvests where kilos at least 20')}`;
  const { text, headers } = await analyst.ask('GET', `/results/${done.result?.id}/file?format=metadata&${asked}`);
  expect(headers.get('content-disposition')).toContain(encodeURIComponent('Heavy ones.csv-metadata.json'));
  const { text: csv } = await analyst.ask('GET', `/results/${done.result?.id}/file?format=csv&${asked}`);
  const told = JSON.parse(text) as Record<'url' | 'notes' | 'tableSchema', unknown>;
  expect(told).toMatchObject({ '@context': ['http://www.w3.org/ns/csvw', {}], url: 'Heavy ones.csv' });
  const notes = told.notes as readonly Record<string, string>[];
  expect(notes.map((each) => [each['schema:name'], each['schema:description']])).toEqual(
    expect.arrayContaining([
      ['What it is', 'Harvests where kilos at least 20'],
      ['Rows', `${done.result?.rows}, complete`],
    ]),
  );
  const { columns } = told.tableSchema as { readonly columns: readonly { readonly titles: string; readonly datatype: unknown }[] };
  expect(columns.map(({ titles, datatype }) => [titles, datatype])).toEqual([
    ['id', 'integer'],
    ['picked_on', 'date'],
    ['kilos', 'decimal'],
  ]);
  expect(csv.split('\n')[0]).toBe(columns.map(({ titles }) => titles).join(','));
});

test('criteria may use a field that is not taken; it is not handed on', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id']);
  const criteria = await edit(analyst, dataset, writtenCriteria(dataset.definition, "grade = 'A'"));
  const done = await run(analyst, criteria, 'full');
  const [[kept]] = (await own("select count(*) from coop.harvests where grade = 'A'")) as [[string]];
  expect([done.result?.rows, done.result?.columns.map((each) => each.name)]).toEqual([kept, ['id']]);
});

describe('a parameter left blank', () => {
  test.each([
    ['must be filled', undefined],
    ['condition is off', 'select count(*) from coop.harvests'],
    ['matches empty', 'select count(*) from coop.harvests where kilos is null'],
  ] as const)('“%s” means that', async (leftBlank, sql) => {
    const dataset = await datasetOf(analyst, source, 'harvests');
    const asking = await edit(
      analyst,
      dataset,
      ...askingWith(dataset.definition, 'kilos', 'at least', parameter({ name: 'min_kilos', leftBlank })),
    );
    if (sql === undefined) {
      const refused = await analyst.ask<ProblemBody>('POST', '/runs', {
        dataset: asking.id,
        revision: asking.revision,
        step: asking.definition.steps[1]?.id,
        size: 'head',
        values: {},
        slot: 's',
      });
      expect([refused.status, refused.body.problems[0]]).toMatchObject([
        422,
        { code: 'value-required', place: { parameter: 'p-min_kilos' } },
      ]);
      return;
    }
    const done = await run(analyst, asking, 'head');
    const [[kept]] = (await own(sql)) as [[string]];
    expect(done.counts?.[1]?.rows).toBe(kept);
  });
});

test('a list of a hundred thousand values is one bound value', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'batch']);
  const asked = parameter({ name: 'batches', type: 'text', takes: 'several' });
  const asking = await edit(analyst, dataset, ...askingWith(dataset.definition, 'batch', 'one of', asked));
  const values = Array.from({ length: 100_000 }, (_, at) => (at < 500 ? `B${String(at + 1).padStart(6, '0')}` : `x'"{},${at}\\`));
  const done = await run(analyst, asking, 'full', { [asked.id]: values });
  expect([done.state, done.result?.rows]).toEqual(['done', '500']);
  const refused = await analyst.ask<ProblemBody>('POST', '/runs', {
    dataset: asking.id,
    revision: asking.revision,
    step: asking.definition.steps[1]?.id,
    size: 'head',
    values: { [asked.id]: [...values, 'more'] },
    slot: 's',
  });
  expect(refused.body.problems[0]?.code).toBe('list-too-long');
});

test('values with quotes, percent signs, line breaks and other scripts are values, never SQL', async () => {
  const dataset = await datasetOf(analyst, source, 'members', 'coop', ['id', 'last_name']);
  const asked = parameter({ name: 'who', type: 'text' });
  const asking = await edit(analyst, dataset, ...askingWith(dataset.definition, 'last_name', 'is', asked));
  for (const [value, rows] of [
    ["O'Sedge", '1'],
    ["'; drop table coop.members; --", '0'],
    ['%', '0'],
    ['a\nb', '0'],
    ['Ẅ文', '0'],
    ['\\', '0'],
  ] as const) {
    expect((await run(analyst, asking, 'head', { [asked.id]: [value] })).result?.rows).toBe(rows);
  }
  const zero = await analyst.ask<ProblemBody>('POST', '/runs', {
    dataset: asking.id,
    revision: asking.revision,
    step: asking.definition.steps[1]?.id,
    size: 'head',
    values: { [asked.id]: ['\u0000'] },
    slot: 's',
  });
  expect(zero.body.problems).toMatchObject([{ code: 'text-unstorable', place: { pointer: `/values/${asked.id}/0` } }]);
});

test('a value marked private asks with the others and is kept nowhere', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'kilos']);
  const secret = '17.4711';
  const asked = parameter({ name: 'pin', isPrivate: true });
  const open = parameter({ name: 'least' });
  const asking = await edit(analyst, dataset, ...askingWith(dataset.definition, 'kilos', 'above', asked));
  const both = await edit(analyst, asking, ...askingWith(asking.definition, 'kilos', 'above', open));
  const done = await run(analyst, both, 'head', { [asked.id]: [secret], [open.id]: ['2.5'] });
  const [[kept]] = (await own(`select count(*) from coop.harvests where kilos > ${secret}`)) as [[string]];
  expect(done.counts?.at(-1)?.rows).toBe(kept);
  const stored = await withSuperuser(cendra.database, (client) =>
    client.query<{ run: string }>('select to_jsonb(r)::text as run from run r where id = $1', [done.id]),
  );
  expect(stored.rows[0]?.run).toContain('2.5');
  expect(stored.rows[0]?.run).not.toContain(secret);
  expect(JSON.stringify(await analyst.get<RunBody>(`/runs/${done.id}`))).not.toContain(secret);
});

test('dates on an instant mean whole days', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'weighed_at']);
  const asked = parameter({ name: 'period', type: 'date', takes: 'range' });
  const asking = await edit(analyst, dataset, ...askingWith(dataset.definition, 'weighed_at', 'within', asked));
  const [[kept]] = (await own("select count(*) from coop.harvests where weighed_at >= '2025-05-01' and weighed_at < '2025-06-01'")) as [
    [string],
  ];
  expect((await run(analyst, asking, 'head', { [asked.id]: ['2025-05-01', '2025-05-31'] })).counts?.[1]?.rows).toBe(kept);
  const [[open]] = (await own("select count(*) from coop.harvests where weighed_at < '2025-06-01'")) as [[string]];
  expect((await run(analyst, asking, 'head', { [asked.id]: ['', '2025-05-31'] })).counts?.[1]?.rows).toBe(open);
});

test('days of an instant begin where the dataset is, which the stored rows know too', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'weighed_at']);
  const { calendar } = dataset.definition;
  const zoned = await edit(analyst, dataset, { kind: 'set calendar', from: calendar, to: { ...calendar, zone: 'Pacific/Kiritimati' } });
  const asked = parameter({ name: 'period', type: 'date', takes: 'range' });
  const asking = await edit(analyst, zoned, ...askingWith(zoned.definition, 'weighed_at', 'within', asked));
  const between = (clock: string) =>
    own(`select count(*) from coop.harvests where ${clock} >= '2025-05-29' and ${clock} < '2025-05-30'`) as Promise<[[string]]>;
  const [[kept]] = await between("weighed_at at time zone 'Pacific/Kiritimati'");
  const [[inUtc]] = await between('weighed_at');
  expect(kept).not.toBe(inUtc);
  const done = await run(analyst, asking, 'head', { [asked.id]: ['2025-05-29', '2025-05-29'] });
  expect(done.counts?.[1]?.rows).toBe(kept);
  expect(done.result?.columns.find((each) => each.name === 'weighed_at')).toMatchObject({
    type: { kind: 'instant', zone: 'Pacific/Kiritimati' },
  });
});

test('rows in which a condition failed to compute are counted', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id']);
  const failing = await edit(analyst, dataset, writtenCriteria(dataset.definition, '100 / (id - 7) > 0'));
  const done = await run(analyst, failing, 'head');
  expect(done.counts?.[1]).toMatchObject({ failed: '1', rows: String(12_430 - 7) });
});

/** A table that keeps a statement busy until it is cancelled. */
const slowly = async () => {
  const dataset = await datasetOf(analyst, source, 'scale_readings', 'coop', ['reading_no']);
  return edit(
    analyst,
    dataset,
    writtenCriteria(
      dataset.definition,
      Array.from({ length: 400 }, (_, at) => `(reading_no * ${at + 2} / 3) + weight_kg <> ${at}.5`).join(' and '),
    ),
  );
};
const start = (dataset: { id: string; revision: number; definition: { steps: readonly { id: string }[] } }, slot: string) =>
  analyst.post<RunBody>('/runs', {
    dataset: dataset.id,
    revision: dataset.revision,
    step: dataset.definition.steps.at(-1)?.id,
    size: 'full',
    values: {},
    slot,
  });
test('a run is stopped at the source, at once', async () => {
  const started = await start(await slowly(), 'a');
  await eventually('it runs in the source', async () => (await reader.atWork()) > 0);
  const stopped = await analyst.post<RunBody>(`/runs/${started.id}/cancel`);
  expect(stopped.state).toBe('cancelled');
  await eventually('nothing works there any more', async () => (await reader.atWork()) === 0);
});

test('a newer run of the same slot stops the older one at the source', async () => {
  const dataset = await slowly();
  const older = await start(dataset, 'b');
  await eventually('it runs in the source', async () => (await reader.atWork()) > 0);
  const quick = await datasetOf(analyst, source, 'regions');
  const other = await run(analyst, quick, 'head');
  expect(other.state).toBe('done');
  const newer = await start(dataset, 'b');
  expect((await ended(analyst, older.id)).state).toBe('cancelled');
  await analyst.post(`/runs/${newer.id}/cancel`);
  await eventually('nothing works there any more', async () => (await reader.atWork()) === 0);
});

test('what ended badly leaves no folder of a run behind', async () => {
  const { readdirSync } = await import('node:fs');
  await eventually('the folder of runs is empty', async () => readdirSync(`${cendra.dataFolder}/runs`).length === 0);
});

describe('when the source changed since', () => {
  const table = unique('changing');
  beforeAll(() =>
    withSuperuser('cooperative', (client) =>
      client.query(
        `create table coop.${table} (id int, amount numeric(8,2), note text); insert into coop.${table} values (1, 2.5, 'x'); grant select on coop.${table} to cendra_read`,
      ),
    ),
  );
  afterAll(() => withSuperuser('cooperative', (client) => client.query(`drop table if exists coop.${table}`)));

  test('a retyped column and a dropped table are told at the step, and the dataset still opens', async () => {
    const dataset = await datasetOf(analyst, source, table);
    expect((await run(analyst, dataset, 'head')).state).toBe('done');
    await withSuperuser('cooperative', (client) => client.query(`alter table coop.${table} alter amount type text`));
    const known = await analyst.get<{ columns: { name: string; sourceType: string }[] }[]>(`/datasets/${dataset.id}/tables`);
    expect(known[0]?.columns.find((each) => each.name === 'amount')?.sourceType).toBe('text');
    const body = {
      dataset: dataset.id,
      revision: dataset.revision,
      step: tableOf(dataset.definition).id,
      size: 'head',
      values: {},
      slot: 's',
    };
    const retyped = await analyst.ask<ProblemBody>('POST', '/runs', body);
    expect([retyped.status, retyped.body.problems[0]]).toMatchObject([
      422,
      { code: 'column-retyped', place: { step: tableOf(dataset.definition).id, field: fieldOf(dataset.definition, 'amount') } },
    ]);
    await withSuperuser('cooperative', (client) => client.query(`drop table coop.${table}`));
    expect(await analyst.get(`/datasets/${dataset.id}/tables`)).toMatchObject([{ state: 'gone' }]);
    expect((await analyst.ask<ProblemBody>('POST', '/runs', body)).body.problems[0]?.code).toBe('table-gone');
    expect((await analyst.ask('GET', `/datasets/${dataset.id}`)).status).toBe(200);
  });
});

test('a result over its limit is cut and says so; its take-away too', async () => {
  const small = await Cendra.start({ limits: { resultRows: 5_000 } });
  try {
    const person = await small.signIn('analyst');
    const fresh = async () => datasetOf(person, await demoSource(person), 'harvests', 'coop', ['id']);
    let dataset = await fresh();
    let done = await run(person, dataset, 'full');
    // Many times: whether the source was stopped in the middle of its rows is a matter of chance.
    for (let times = 0; times < 8; times++) {
      expect(done).toMatchObject({ state: 'done', mostRows: 5_000, result: { rows: '5000', complete: false, cut: 'rows' } });
      expect(done.counts?.map((each) => each.rows)).toEqual(['12430']);
      dataset = await fresh();
      done = await run(person, dataset, 'full');
    }
    // Now it is known how many there are: they are not read again.
    const step = dataset.definition.steps[0]?.id;
    const again = await person.ask<ProblemBody>('POST', '/runs', {
      dataset: dataset.id,
      revision: dataset.revision,
      step,
      size: 'full',
      slot: 'rows',
      values: {},
    });
    expect([again.status, again.body.problems[0]?.code, again.body.problems[0]?.message]).toEqual([
      422,
      'result-too-large',
      'This step gave 12430 rows when it was last counted, and a result has 5000 at most.',
    ]);
    expect((await person.ask('GET', `/results/${done.result?.id}/file?format=csv`)).headers.get('x-cendra-complete')).toBe('false');
  } finally {
    await small.stop();
  }
});

test('a statement over its time limit is stopped and told', async () => {
  const hurried = await Cendra.start({ limits: { statementTime: 1_000 } });
  const [saved, savedSource] = [analyst, source];
  try {
    const person = await hurried.signIn('analyst');
    [analyst, source] = [person, await demoSource(person)];
    const dataset = await slowly();
    const done = await ended(person, (await start(dataset, 'c')).id);
    expect(done).toMatchObject({ state: 'failed', problems: [{ code: 'statement-too-long' }] });
  } finally {
    [analyst, source] = [saved, savedSource];
    await hurried.stop();
  }
});

test('rows and counts of one run come from one moment', async () => {
  const table = unique('moving');
  const writer = await superuser('cooperative');
  try {
    await writer.query(
      `create table coop.${table} (id int); insert into coop.${table} select generate_series(1, 300000); grant select on coop.${table} to cendra_read`,
    );
    const dataset = await datasetOf(analyst, source, table);
    const started = await start(dataset, 'd');
    for (let count = 0; count < 20; count++) await writer.query(`insert into coop.${table} select generate_series(1, 1000)`);
    const done = await ended(analyst, started.id);
    expect(done.counts?.[0]?.rows).toBe(done.result?.rows);
  } finally {
    await writer.query(`drop table if exists coop.${table}`);
    await writer.end();
  }
});

test('a source that is away is told, and the dataset still opens', async () => {
  const steward = await cendra.signIn('steward');
  const made = await steward.post<{ id: string }>('/sources', {
    name: unique('away'),
    mark: 'aw',
    ...postgresqlAt(),
  });
  await steward.ask('PUT', `/sources/${made.id}/access`, { people: [analyst.id] });
  const dataset = await datasetOf(analyst, made.id, 'regions');
  await steward.ask('PATCH', `/sources/${made.id}`, { settings: { port: 1 }, secret: 'x' });
  expect((await analyst.ask('GET', `/datasets/${dataset.id}`)).status).toBe(200);
  expect(await analyst.get(`/datasets/${dataset.id}/tables`)).toMatchObject([{ state: 'unreachable', problem: { code: 'port-closed' } }]);
  const done = await run(analyst, dataset, 'head');
  expect([done.state, done.problems[0]?.code]).toEqual(['failed', 'port-closed']);
});
