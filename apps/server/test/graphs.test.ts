import { mkdirSync, rmSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import fc from 'fast-check';
import type { Client } from 'pg';
import type { CheckedTrail, Expression, Plan, Relation, Value } from '@cendra/core';
import {
  arithmetic,
  bindValues,
  checkTrail,
  compare,
  columnsOf,
  countsFrom,
  duckdb,
  evaluateTrail,
  outputColumns,
  planCounts,
  planRelation,
  planRows,
  prune,
  relationAfter,
  stageGroup,
  watchedAt,
  whole,
  writeValue,
} from '@cendra/core';
import type { Graph } from '../../../packages/core/test/support/graphs';
import { graph, tablesOf } from '../../../packages/core/test/support/graphs';
import { Engine } from '../src/engine';
import { numberedRows } from '../src/engine/stored-rows';
import { statementMade } from '../src/planning';
import { RunSites } from '../src/runs/run-sites';
import type { Extracted, StageRecord } from '../src/runs/run-sites';
import type { SourceSnapshot } from '../src/sources';
import { postgresqlConnector } from '../src/sources/connectors/postgresql';
import { eventually } from './support/cendra';
import { cluster, folderFor, superuser, unique } from './support/cluster';

/** Graphs over one to three databases, carried out by the real combine engine, give the rows core says they have. */

const NAMES = ['s1', 's2', 's3'] as const;
const TABLES = ['t0', 't1', 't2'] as const;
const folder = folderFor('graphs');
const engine = new Engine(join(folder, 'spill'), resolve(__dirname, '../dist/engine/process.js'));
const databases = new Map(NAMES.map((each) => [each as string, unique('graphs')]));
const clients = new Map<string, Client>();
const binding = bindValues([], {}, 0n);

beforeAll(async () => {
  const owner = await superuser('postgres');
  for (const [name, database] of databases) {
    await owner.query(`create database ${database}`);
    const client = await superuser(database);
    await client.query('create schema x');
    for (const table of TABLES) await client.query(`create table x.${table} (id bigint primary key, n bigint, w text)`);
    clients.set(name, client);
  }
  await owner.end();
});
afterAll(async () => {
  await engine.stop();
  for (const client of clients.values()) await client.end();
  const owner = await superuser('postgres');
  for (const database of databases.values()) await owner.query(`drop database ${database} with (force)`);
  await owner.end();
});

async function fill({ rows }: Graph): Promise<void> {
  const statements = TABLES.map((table) => {
    const values = (rows[table] ?? []).map((row) => `(${digits(row.get('id'))}, ${digits(row.get('n'))}, '${String(row.get('w'))}')`);
    return `truncate x.${table};${values.length > 0 ? ` insert into x.${table} values ${values.join(', ')};` : ''}`;
  });
  await Promise.all([...clients.values()].map((each) => each.query(statements.join('\n'))));
}

const digits = (value: Value | undefined) => (value === null || value === undefined ? 'null' : writeValue(whole, value));

const settingsOf = (source: string) => ({
  host: '127.0.0.1',
  port: cluster.port,
  database: databases.get(source) ?? '',
  user: 'postgres',
  tls: 'off' as const,
});

let runs = 0;
/** The sites of a run of its own, with what was opened in it. */
function sitesOf(open = (source: string): Promise<SourceSnapshot> => postgresqlConnector.open(settingsOf(source), cluster.password)) {
  const run = `run ${++runs}`;
  const own = join(folder, run);
  mkdirSync(own);
  const opened: string[] = [];
  const sites = new RunSites(
    {
      run,
      folder: own,
      binding,
      signal: new AbortController().signal,
      bytes: 1e12,
      open: (source) => {
        opened.push(source);
        return open(source);
      },
      write: (wanted) => Promise.resolve(statementMade(wanted, dialects(wanted.site))),
      onProgress: () => undefined,
    },
    engine,
  );
  const close = async () => {
    await sites.close();
    rmSync(own, { recursive: true });
  };
  return { sites, opened, close };
}

const dialects = (site: { readonly kind: string }) => (site.kind === 'combine' ? duckdb : postgresqlConnector.dialect);

type Texts = readonly (readonly (string | null)[])[];
const sorted = (rows: Texts) => rows.toSorted((a, b) => (JSON.stringify(a) < JSON.stringify(b) ? -1 : 1));

function expected(given: Graph, trail: CheckedTrail, step: string): Texts {
  const columns = outputColumns(trail, step);
  const { rows } = evaluateTrail(given.definition, step, binding, tablesOf(given));
  return sorted(rows.map((row) => columns.map(({ id, type }) => textOf(type, row.get(id) ?? null))));
}

const textOf = (type: Parameters<typeof writeValue>[0], value: Value) => (value === null ? null : writeValue(type, value));

async function stored({ parts }: Extracted, trail: CheckedTrail, step: string): Promise<Texts> {
  const instance = await DuckDBInstance.create(':memory:');
  const connection = await instance.connect();
  const columns = outputColumns(trail, step).map(({ id }) => `"${id}"::varchar`);
  const reader = await connection.runAndReadAll(`select ${columns.join(', ')} from ${numberedRows(parts, 'row number')}`);
  const rows = reader.getRowsJson() as (string | null)[][];
  connection.closeSync();
  return sorted(rows);
}

const sourcesOfPlan = (plan: Plan) => new Set(plan.stages.flatMap(({ site }) => (site.kind === 'combine' ? [] : [site.source])));

test('rows and counts agree, whichever sources the tables lie in', async () => {
  let several = 0;
  let keyed = 0;
  await fc.assert(
    fc.asyncProperty(graph, async (given) => {
      const trail = checkTrail(given.definition);
      const planned = trail.steps
        .filter((each) => !each.blocked)
        .map(({ step: { id } }) => ({
          id,
          plan: planRows(relationAfter(trail, id, binding), outputColumns(trail, id), undefined, dialects),
        }));
      const [first, ...others] = planned;
      if (!first) return;
      const { id: step, plan } = others.reduce((most, each) => (each.plan.stages.length > most.plan.stages.length ? each : most), first);
      await fill(given);
      const { sites, opened, close } = sitesOf();
      try {
        const made = await sites.rows(plan);
        expect(await stored(made, trail, step)).toEqual(expected(given, trail, step));
        expect(made.rows).toBe(expected(given, trail, step).length);
        expect(made.stages).toHaveLength(plan.stages.length);
        if (plan.stages.length > 1) several++;
        keyed += made.stages.filter((each) => typeof each.keys === 'number').length;
        const counting = planCounts(trail, step, binding);
        const groups = [];
        for (const segment of counting.segments)
          groups.push((await sites.few(planRelation(segment.relation, dialects))).map((row) => stageGroup(segment, row)));
        const distinct = [];
        for (const { relation } of counting.distinct) distinct.push((await sites.few(planRelation(relation, dialects)))[0] ?? []);
        const failed = [];
        for (const { relation } of counting.failed) failed.push((await sites.few(planRelation(relation, dialects)))[0] ?? []);
        for (const { step: at, rows, figures } of countsFrom(counting, groups, distinct, failed)) {
          for (const { figure, value } of figures)
            expect([at, figure, value]).toEqual([at, figure, figureByHand(given, trail, at, figure)]);
          expect([at, Number(rows)]).toEqual([at, evaluateTrail(given.definition, at, binding, tablesOf(given)).rows.length]);
        }
        // One snapshot of each source, however many stages and counts read it.
        expect(opened).toHaveLength(new Set(opened).size);
        expect(new Set([...(await sites.moments()).keys()])).toEqual(new Set(opened));
        for (const each of sourcesOfPlan(plan)) expect(opened).toContain(each);
      } finally {
        await close();
      }
    }),
    { numRuns: 120 },
  );
  expect(several).toBeGreaterThan(5);
  expect(keyed).toBeGreaterThan(3);
});

function figureByHand(given: Graph, trail: CheckedTrail, step: string, figure: number): string | null {
  const watched = trail.definition.watched?.[figure];
  const id = watched && watchedAt(trail, watched).get(step);
  const { rows } = evaluateTrail(given.definition, step, binding, tablesOf(given));
  const values = rows.flatMap((row) => row.get(id ?? '') ?? []);
  if (watched?.aggregate === 'distinct count') return String(new Set(values).size);
  return values.length === 0 ? null : String(values.reduce<bigint>((sum, each) => sum + (each as { digits: bigint }).digits, 0n));
}

const SOURCE_TYPES = { bigint: whole, text: { kind: 'text' }, 'timestamp without time zone': { kind: 'datetime' } } as const;
type SourceType = keyof typeof SOURCE_TYPES;

/** A table of one of the sources, its fields named after it. */
function tableOf(source: string, table: string, columns: readonly (readonly [string, SourceType])[]): Relation {
  const made = columns.map(([column, sourceType]) => ({
    id: `${table}-${column}`,
    name: `${table}_${column}`,
    type: SOURCE_TYPES[sourceType],
    column,
    sourceType,
    looseText: false,
  }));
  return { node: 'table', site: { kind: 'source', source }, schema: 'x', table, columns: made };
}

const idsEqual = (left: string, right: string) =>
  compare('=', { op: 'field', type: whole, id: `${left}-id` }, { op: 'field', type: whole, id: `${right}-id` });

const joined = (left: Relation, right: Relation, names: readonly [string, string]): Relation => ({
  node: 'join',
  left,
  right,
  on: idsEqual(...names),
  keeps: 'left',
});

async function withTable(source: string, table: string, made: string, use: () => Promise<void>): Promise<void> {
  const client = clients.get(source);
  await client?.query(`create table x.${table} as ${made}`);
  try {
    await use();
  } finally {
    await client?.query(`drop table x.${table}`);
  }
}

const NUMBERED = [
  ['id', 'bigint'],
  ['n', 'bigint'],
] as const;

async function carriedOut(relation: Relation): Promise<Extracted & { readonly stages: readonly StageRecord[] }> {
  const { sites, close } = sitesOf();
  try {
    return await sites.rows(planRelation(relation, dialects));
  } finally {
    await close();
  }
}

const few = () => tableOf('s1', 'few', NUMBERED);
const many = () => tableOf('s2', 'many', NUMBERED);

describe('a join over two sources', () => {
  const big = 'select i::bigint as id, i::bigint % 7 as n from generate_series(1, 50000) i';

  test('asks the second only for rows with the keys the first has', async () => {
    await withTable('s2', 'many', big, () =>
      withTable('s1', 'few', 'select i::bigint * 100 as id, i::bigint as n from generate_series(1, 30) i', async () => {
        const { stages, rows } = await carriedOut(joined(few(), many(), ['few', 'many']));
        expect(rows).toBe(30);
        expect(stages).toMatchObject([
          { source: 's1', rows: 30 },
          { source: 's2', rows: 30, keys: 30 },
          { source: null, rows: 30 },
        ]);
      }),
    );
  });

  test('brings all rows where the first has more keys than are worth sending', async () => {
    await withTable('s2', 'many', big, () =>
      withTable('s1', 'few', 'select i::bigint as id, i::bigint as n from generate_series(1, 20001) i', async () => {
        const { stages, rows } = await carriedOut(joined(few(), many(), ['few', 'many']));
        expect(rows).toBe(20_001);
        expect(stages[1]).toMatchObject({ source: 's2', rows: 50_000, keys: 'all' });
      }),
    );
  });

  test('keeps what does not fit its type as the source wrote it, also where only one side has such values', async () => {
    await withTable('s2', 'odd', "select 1::bigint as id, 'infinity'::timestamp as at union all select 2, '2025-05-01'", () =>
      withTable('s1', 'few', 'select i::bigint as id, i::bigint as n from generate_series(1, 2) i', async () => {
        const odd = tableOf('s2', 'odd', [
          ['id', 'bigint'],
          ['at', 'timestamp without time zone'],
        ]);
        const made = await carriedOut(joined(few(), odd, ['few', 'odd']));
        expect(made.misfits).toEqual({ 'odd-at': 1 });
        expect(made.statement.columns.map((each) => each.id)).toEqual(['few-id', 'few-n', 'odd-id', 'odd-at']);
      }),
    );
  });
});

const union = (first: Relation, second: Relation): Relation => ({
  node: 'union',
  inputs: [first, second],
  columns: columnsOf(first),
});

describe('several sources at once', () => {
  const both = () => planRelation(union(tableOf('s1', 't0', NUMBERED), tableOf('s2', 't0', NUMBERED)), dialects);

  test('are opened side by side: none waits for another', async () => {
    const waiting: (() => void)[] = [];
    // Each source opens only once the other has been asked to.
    const { sites, close } = sitesOf(async (source) => {
      await new Promise<void>((go) => {
        waiting.push(go);
        if (waiting.length === 2) for (const each of waiting) each();
      });
      return postgresqlConnector.open(settingsOf(source), cluster.password);
    });
    await sites.rows(both());
    await close();
  });

  test('leave nothing when one of them is lost, and end what runs at the other', async () => {
    const { sites, close } = sitesOf(async (source) => {
      if (source === 's2') throw new Error('gone');
      return postgresqlConnector.open(settingsOf(source), cluster.password);
    });
    await expect(sites.rows(both())).rejects.toThrow('gone');
    await close();
    await eventually('no transaction is left', async () => {
      const left = await clients
        .get('s1')
        ?.query("select from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid() and state <> 'idle'");
      return left?.rowCount === 0;
    });
  });
});

describe('rows of several sources in one list', () => {
  const stacked = (): Relation => ({
    node: 'union',
    inputs: [few(), many()],
    columns: [{ id: 'n', name: 'n', type: whole }].flatMap((each) => [{ ...each, id: 'id', name: 'id' }, each]),
  });
  const filled = (use: () => Promise<void>) =>
    withTable('s1', 'few', 'select i::bigint as id, i::bigint as n from generate_series(1, 3) i', () =>
      withTable('s2', 'many', 'select i::bigint as id, i::bigint * 2 as n from generate_series(1, 4) i', use),
    );

  test('are counted also where no column of them is wanted', async () => {
    await filled(async () => {
      const { sites, close } = sitesOf();
      const group: Relation = { node: 'group', input: stacked(), keys: [], counts: [{ id: 'rows' }] };
      try {
        expect(await sites.few(planRelation(prune(group, new Set(['rows'])), dialects))).toEqual([['7']]);
      } finally {
        await close();
      }
    });
  });

  test('have an average, exactly: their sum divided by how many they are', async () => {
    await filled(async () => {
      const sum = { kind: 'decimal', precision: 38, scale: 0 } as const;
      const of: Expression = { op: 'field', type: whole, id: 'n' };
      const group: Relation = {
        node: 'group',
        input: stacked(),
        keys: [],
        counts: [],
        measures: [
          { id: 'sum', name: 'sum', type: sum, aggregate: 'sum', of },
          { id: 'count', name: 'count', type: whole, aggregate: 'count', of },
        ],
      };
      const average = arithmetic('/', { op: 'field', type: sum, id: 'sum' }, { op: 'field', type: whole, id: 'count' });
      const relation: Relation = {
        node: 'calculate',
        input: group,
        kept: [],
        fields: [{ id: 'a', name: 'a', type: average.type, expression: average }],
      };
      const { sites, close } = sitesOf();
      try {
        // (1 + 2 + 3 + 2 + 4 + 6 + 8) ÷ 7
        expect(await sites.few(planRelation(relation, dialects))).toEqual([['3.714286']]);
      } finally {
        await close();
      }
    });
  });
});
