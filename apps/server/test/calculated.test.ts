import { join } from 'node:path';
import type { Dialect, Edit, Site, Step } from '@cendra/core';
import {
  addItem,
  addStepAfter,
  bindValues,
  checkTrail,
  countsFrom,
  duckdb,
  outputColumns,
  planCounts,
  planRelation,
  planRows,
  postgresql,
  relationAfter,
  stageGroup,
} from '@cendra/core';
import { Engine } from '../src/engine';
import { statementMade } from '../src/planning';
import { RunSites } from '../src/runs/run-sites';
import { postgresqlConnector } from '../src/sources/connectors/postgresql';
import type { DatasetBody, Person, ProblemBody, RunBody } from './support/cendra';
import { Cendra, rowsOf, run } from './support/cendra';
import { cluster, folderFor, unique, withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, writtenCriteria } from './support/datasets';

/** Calculated fields from the request to the rows: what is shown is what the source itself would say. */

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
  (await withSuperuser('cooperative', (client) => client.query<(string | null)[]>({ text: sql, rowMode: 'array' }))).rows;

function calculating(dataset: DatasetBody, fields: Readonly<Record<string, string>>): Edit {
  const after = dataset.definition.steps.at(-1)?.id ?? '';
  return addStepAfter(dataset.definition, after, {
    id: unique('step'),
    kind: 'calculate',
    name: '',
    off: false,
    inputs: [after],
    fields: Object.entries(fields).map(([name, text]) => ({ id: `f-${name}`, name, expression: { text, refs: [] } })),
  });
}

async function calculated(table: string, taken: readonly string[], fields: Readonly<Record<string, string>>): Promise<DatasetBody> {
  const dataset = await datasetOf(analyst, source, table, 'coop', taken);
  return edit(analyst, dataset, calculating(dataset, fields));
}

const cellsOf = async (done: RunBody, query?: string) => (await rowsOf(analyst, done.result?.id ?? '', query)).map((row) => row.slice(1));

test('a full run gives what the same SQL by hand gives', async () => {
  const dataset = await calculated('harvests', ['id', 'kilos'], {
    season: 'extract(year from picked_on)',
    share: 'kilos / sum(kilos) over (partition by season)',
    so_far: 'sum(kilos) over (partition by season order by picked_on, id)',
    told: "coalesce(format_number(kilos, '0.0'), 'not weighed')",
  });
  const done = await run(analyst, dataset, 'full');
  const id = dataset.definition.steps[0]?.kind === 'table' ? dataset.definition.steps[0].fields[0]?.id : '';
  const expected = await own(`
    select id::text, kilos::text, extract(year from picked_on)::text,
      round(kilos / sum(kilos) over (partition by extract(year from picked_on)), 6)::text,
      (sum(kilos) over (partition by extract(year from picked_on) order by picked_on, id))::text,
      coalesce(round(kilos, 1)::text, 'not weighed')
    from coop.harvests h order by h.id limit 300`);
  expect(await cellsOf(done, `offset=0&limit=300&sort=${id}`)).toEqual(expected);
});

test('the counts say in how many rows each field failed, after the criteria before it', async () => {
  const dataset = await datasetOf(analyst, source, 'inspections', 'coop', ['id', 'varroa_count']);
  const criteria = await edit(analyst, dataset, writtenCriteria(dataset.definition, "seen_on < date '2023-01-01'"));
  const both = await edit(
    analyst,
    criteria,
    calculating(criteria, { varroa: 'cast(varroa_count as integer)', per: '100 / varroa', fine: 'id' }),
  );
  const done = await run(analyst, both, 'head');
  const [[words, zeros, rows]] = (await own(`
    select count(*) filter (where varroa_count = 'n/a'), count(*) filter (where trim(varroa_count) = '0'), count(*)
    from coop.inspections where seen_on < date '2023-01-01'`)) as [[string, string, string]];
  expect(done.counts?.at(-1)).toEqual({
    step: both.definition.steps.at(-1)?.id,
    rows,
    failed: String(Number(words) + Number(zeros)),
    fields: [
      { field: 'f-varroa', failed: words },
      { field: 'f-per', failed: zeros },
    ],
    figures: [],
  });
});

describe('asked of a calculate step', () => {
  let inspections: DatasetBody;
  let harvests: DatasetBody;
  beforeAll(async () => {
    inspections = await calculated('inspections', ['id', 'varroa_count'], { varroa: 'cast(varroa_count as integer)', per: '100 / varroa' });
    harvests = await calculated('harvests', ['id', 'kilos'], { season: 'extract(year from picked_on)', share: 'kilos' });
  });

  test('the rows in which a field failed are those, and all of them', async () => {
    const done = await run(analyst, inspections, 'full', {}, undefined, { kind: 'failed', field: 'f-varroa' });
    expect(done).toMatchObject({ state: 'done', inspection: 'failed', counts: null });
    expect(await cellsOf(done)).toEqual(
      await own("select id::text, varroa_count, null, null from coop.inspections i where varroa_count = 'n/a' order by i.id limit 500"),
    );
    const any = await run(analyst, inspections, 'full', {}, undefined, { kind: 'failed' });
    const [[count]] = (await own("select count(*) from coop.inspections where trim(varroa_count) in ('n/a', '0')")) as [[string]];
    expect(any.result?.rows).toBe(count);
  });

  test('a handful of rows holds a null, the least and the greatest value, and other rows seen from all of them', async () => {
    const expression = { text: 'kilos / sum(kilos) over (partition by season)', refs: [] };
    const done = await run(analyst, harvests, 'head', {}, undefined, { kind: 'live', field: 'f-share', expression });
    const columns = done.result?.columns.map((each) => each.name) ?? [];
    const cells = await cellsOf(done);
    const kilos = cells.map((row) => row[columns.indexOf('kilos')]);
    const [[least, most]] = (await own('select min(kilos)::text, max(kilos)::text from coop.harvests')) as [[string, string]];
    expect(kilos).toEqual(expect.arrayContaining([null, least, most]));
    expect(cells.length).toBeLessThan(20);
    const sums = new Map(
      (await own('select extract(year from picked_on)::text, sum(kilos)::text from coop.harvests group by 1')) as [string, string][],
    );
    for (const row of cells) expect(row[columns.indexOf('window 0')]).toBe(sums.get(row[columns.indexOf('season')] as string));
  });

  test('the rows of a frame are those of the partition between its places', async () => {
    const expression = { text: 'sum(kilos) over (partition by season order by picked_on, id)', refs: [] };
    const inspection = { kind: 'frame' as const, field: 'f-share', expression, window: 0, partition: ['2023'], from: 3, until: 7 };
    const done = await run(analyst, harvests, 'head', {}, undefined, inspection);
    const columns = done.result?.columns.map((each) => each.name) ?? [];
    const ids = (await cellsOf(done)).map((row) => [row[columns.indexOf('place')], row[columns.indexOf('id')]]).sort();
    expect(ids).toEqual(
      await own(`select n::text, id::text from (select row_number() over (order by picked_on, id) n, id from coop.harvests
        where extract(year from picked_on) = 2023) q where n between 3 and 7 order by 1`),
    );
  });

  test('a field is looked at while it is written, also beside one with an error', async () => {
    const field = { id: 'f-broken', name: 'broken', expression: { text: '', refs: [] } };
    const broken = await edit(analyst, harvests, addItem(harvests.definition.steps.at(-1) as Step, 'fields', field, 0));
    const expression = { text: 'kilos * 2', refs: [] };
    const done = await run(analyst, broken, 'head', {}, undefined, { kind: 'live', field: 'f-broken', expression });
    expect(done).toMatchObject({ state: 'done', inspection: 'live' });
  });

  test('inspections are not among the runs that are listed', async () => {
    const inspected = await run(analyst, inspections, 'head', {}, undefined, { kind: 'failed' });
    const plain = await run(analyst, inspections, 'head');
    const listed = (await analyst.get<RunBody[]>('/runs')).map((each) => each.id);
    expect([listed.includes(inspected.id), listed.includes(plain.id)]).toEqual([false, true]);
  });

  test.each([
    ['something that is no inspection', { kind: 'magic' }, 400, 'inspection-wrong'],
    ['a field that is not there', { kind: 'live', field: 'nowhere', expression: { text: '1', refs: [] } }, 422, 'field-gone'],
    ['an expression with an error', { kind: 'live', field: 'f-share', expression: { text: 'kilo', refs: [] } }, 422, 'field-unknown'],
    [
      'a frame of no window',
      { kind: 'frame', field: 'f-share', expression: { text: 'kilos', refs: [] }, window: 0, partition: [], from: 1, until: 2 },
      422,
      'inspection-unsuited',
    ],
  ])('%s is refused with what is wrong', async (_, inspection, status, code) => {
    const { definition, id, revision } = harvests;
    const answer = await analyst.ask<ProblemBody>('POST', '/runs', {
      dataset: id,
      revision,
      step: definition.steps.at(-1)?.id,
      size: 'head',
      values: {},
      slot: 's',
      inspection,
    });
    expect([answer.status, answer.body.problems[0]?.code]).toEqual([status, code]);
  });

  test('who lost the source is refused, rows and asks alike', async () => {
    const { definition, id, revision } = harvests;
    const done = await run(analyst, harvests, 'head', {}, undefined, { kind: 'failed' });
    const steward = await cendra.signIn('steward');
    await steward.ask('PUT', `/sources/${source}/access`, { people: [] });
    const asked = {
      dataset: id,
      revision,
      step: definition.steps.at(-1)?.id,
      size: 'head',
      values: {},
      slot: 's',
      inspection: { kind: 'failed' },
    };
    expect((await analyst.ask('POST', '/runs', asked)).status).toBe(403);
    expect((await analyst.ask('GET', `/results/${done.result?.id}/rows?offset=0&limit=10`)).status).toBe(404);
    await steward.ask('PUT', `/sources/${source}/access`, { people: [analyst.id] });
  });
});

test('the current moment is one for all rows and the run', async () => {
  const dataset = await calculated('regions', ['code'], { at: 'localtimestamp', day: 'current_date' });
  const done = await run(analyst, dataset, 'full');
  const [first, ...rest] = (await cellsOf(done)).map((row) => [row[1], row[2]]);
  expect(rest).toEqual([first, first, first]);
  expect(String(first?.[0]).slice(0, 10)).toBe(first?.[1]);
  expect(Math.abs(Date.parse(`${String(first?.[0]).replace(' ', 'T')}Z`) - Date.now())).toBeLessThan(120_000);
});

test('what a source cannot generate exactly runs in the combine engine, with the same rows and counts', async () => {
  const dataset = await calculated('inspections', ['id', 'seen_on'], {
    week: 'start_of_week(seen_on)',
    varroa: 'cast(varroa_count as integer)',
    told: "format_date(week, 'd MMM yyyy') || coalesce(': ' || cast(varroa as text), '')",
  });
  const inSource = await run(analyst, dataset, 'full');
  const whole = postgresql('settings');
  const without: Dialect = { ...whole, capabilities: new Set([...whole.capabilities].filter((each) => each !== 'calendar')) };
  const dialects = (site: Site) => (site.kind === 'combine' ? duckdb : without);
  const trail = checkTrail(dataset.definition);
  const step = dataset.definition.steps.at(-1)?.id ?? '';
  const binding = bindValues([], {}, 0n);
  const folder = folderFor('combine');
  const engine = new Engine(folder, join(process.cwd(), 'apps/server/dist/engine/process.js'));
  const sites = new RunSites(
    {
      run: unique('run'),
      folder,
      binding,
      signal: new AbortController().signal,
      bytes: 1e12,
      open: () =>
        postgresqlConnector.open(
          { host: '127.0.0.1', port: cluster.port, database: 'cooperative', user: 'cendra_read', tls: 'off' },
          cluster.demoPassword,
        ),
      write: (wanted) => Promise.resolve(statementMade(wanted, dialects(wanted.site))),
      onProgress: () => undefined,
    },
    engine,
  );
  try {
    const made = await sites.rows(planRows(relationAfter(trail, step, binding), outputColumns(trail, step), undefined, dialects));
    const page = await engine.do({
      work: 'page',
      file: made.parts,
      columns: outputColumns(trail, step),
      sorted: false,
      marked: false,
      offset: 0,
      limit: 500,
      cellBytes: 1_000,
      pageBytes: 1_000_000,
    });
    const rows = (JSON.parse(new TextDecoder().decode(page)) as unknown[][]).map((row) => row.slice(1));
    expect(rows).toEqual(await cellsOf(inSource));
    const counting = planCounts(trail, step, binding);
    const groups = await Promise.all(
      counting.segments.map(async (segment) =>
        (await sites.few(planRelation(segment.relation, dialects))).map((row) => stageGroup(segment, row)),
      ),
    );
    const counts = countsFrom(counting, groups);
    expect(counts.map(({ rows, failed }) => [String(rows), String(failed)])).toEqual(
      inSource.counts?.map((each) => [each.rows, each.failed]),
    );
  } finally {
    await sites.close();
    await engine.stop();
  }
});
