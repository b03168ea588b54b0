import fc from 'fast-check';
import { DuckDBInstance } from '@duckdb/node-api';
import type { DuckDBConnection } from '@duckdb/node-api';
import type { Client } from 'pg';
import type { Definition, Relation, Step, Value } from '@cendra/core';
import {
  bindValues,
  checkTrail,
  columnsOf,
  compile,
  countsFrom,
  duckdb,
  duckdbTypeName,
  emptyDefinition,
  evaluateTrail,
  handedOn,
  HEADS,
  lacking,
  planCounts,
  planRows,
  postgresql,
  readValue,
  relationAfter,
  writeValue,
} from '@cendra/core';
import { conditionExpression, schema, wireRow } from '../../../packages/core/test/support/generate';
import type { WireRow } from '../../../packages/core/test/support/generate';
import { superuser } from './support/cluster';

/** Generated trails of criteria give the same rows in core, pushed down to PostgreSQL, and landed in DuckDB; and the same counts. */

const SOURCE_TYPES: Record<string, string> = {
  w1: 'bigint',
  w2: 'bigint',
  d2: 'numeric(8,2)',
  d6: 'numeric(20,6)',
  d10: 'numeric(38,10)',
  open: 'numeric',
  f1: 'double precision',
  t1: 'text',
  t2: 'text',
  b1: 'boolean',
  day1: 'date',
  at1: 'timestamp without time zone',
};
const fields = schema.fields.map(({ id, name, type }) => ({
  id,
  column: name,
  sourceType: SOURCE_TYPES[id] ?? 'text',
  type,
  role: 'attribute' as const,
  looseText: false,
}));
const key = { id: 'n', column: 'n', sourceType: 'bigint', type: { kind: 'whole' as const }, role: 'key' as const, looseText: false };
const table: Step = {
  id: 't',
  kind: 'table',
  name: '',
  off: false,
  inputs: [],
  source: 's',
  schema: 'pg_temp',
  table: 'trail_rows',
  fields: [key, ...fields],
  taken: ['n', 't1', 'd2'],
};

let client: Client;
let engine: DuckDBConnection;
beforeAll(async () => {
  client = await superuser('postgres');
  await client.query(`create temp table trail_rows (n bigint, ${fields.map((each) => `${each.column} ${each.sourceType}`).join(', ')})`);
  engine = await (await DuckDBInstance.create(':memory:')).connect();
  await engine.run(`set TimeZone='UTC'`);
  await engine.run(`create table landed (n bigint, ${fields.map(({ id, type }) => `${id} ${duckdbTypeName(type)}`).join(', ')})`);
});
afterAll(async () => {
  await client.end();
  engine.closeSync();
});

const step = fc.record({
  sources: fc.array(conditionExpression, { minLength: 0, maxLength: 3 }),
  head: fc.constantFrom(...HEADS),
  off: fc.boolean(),
});

function trailOf(
  steps: readonly {
    readonly sources: readonly { readonly source: string }[];
    readonly head: (typeof HEADS)[number];
    readonly off: boolean;
  }[],
): Definition {
  const made = steps.map(({ sources, head, off }, at): Step => ({
    id: `c${at}`,
    kind: 'criteria',
    name: '',
    off,
    inputs: [at === 0 ? 't' : `c${at - 1}`],
    head,
    clauses: sources.map(({ source }, index) => ({
      id: `c${at}-${index}`,
      kind: 'expression' as const,
      off: false,
      expression: { text: source, refs: [] },
    })),
  }));
  return { ...emptyDefinition('Generated'), steps: [table, ...made] };
}

async function fill(rows: readonly WireRow[]): Promise<void> {
  await client.query('truncate trail_rows');
  await engine.run('delete from landed');
  for (const [n, wire] of rows.entries()) {
    const values = [n, ...fields.map((each) => wire[each.id] ?? null)];
    await client.query({ text: `insert into trail_rows values (${values.map((_, at) => `$${at + 1}`).join(', ')})`, values });
    await engine.run(
      `insert into landed values ($1, ${fields.map(({ type }, at) => `cast($${at + 2} as ${duckdbTypeName(type)})`).join(', ')})`,
      values,
    );
  }
}

/** The same relation over rows that were brought to the combine engine. */
function landed(relation: Relation): Relation {
  if (relation.node === 'table') return { node: 'landed', handle: 'landed', columns: columnsOf(relation) };
  return 'input' in relation ? { ...relation, input: landed(relation.input) } : relation;
}

test('rows and counts agree, pushed down and landed', async () => {
  let ranLanded = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.array(wireRow, { minLength: 1, maxLength: 6 }),
      fc.array(step, { minLength: 1, maxLength: 3 }),
      async (rows, steps) => {
        await fill(rows);
        const definition = trailOf(steps);
        const trail = checkTrail(definition);
        const last = definition.steps.at(-1)?.id ?? '';
        const binding = bindValues([], {});
        const own = rows.map(
          (wire, n) =>
            new Map<string, Value>([
              ['n', { digits: BigInt(n), scale: 0 }],
              ...fields.map(({ id, type }): [string, Value] => [id, valueOf(type, wire[id] ?? null)]),
            ]),
        );
        const expected = evaluateTrail(definition, last, binding, () => own).rows.map((row) =>
          [...row].map(([id, value]) => written(id, value)),
        );

        const plan = planRows(relationAfter(trail, last, binding), handedOn(trail, last), undefined, (site) =>
          site.kind === 'combine' ? duckdb : postgresql('numbered'),
        );
        const relation = plan.fragments[0]?.relation as Relation;
        const statement = compile(relation, postgresql('numbered'), binding);
        const pushed = await client.query<(string | null)[]>({
          text: `select * from (${statement.text}) q order by n`,
          values: statement.values.map((each) => each.value),
          rowMode: 'array',
        });
        expect(pushed.rows).toEqual(expected);

        const counting = planCounts(trail, last, binding);
        const counts = compile(counting.relation, postgresql('numbered'), binding);
        const groups = await client.query<string[]>({
          text: counts.text,
          values: counts.values.map((each) => each.value),
          rowMode: 'array',
        });
        const counted = countsFrom(
          counting,
          groups.rows.map(([stage, count, failed]) => ({ stage: Number(stage), rows: BigInt(count ?? 0), failed: BigInt(failed ?? 0) })),
        );
        expect(counted.map((each) => Number(each.rows))).toEqual(
          definition.steps.map((each) => evaluateTrail(definition, each.id, binding, () => own).rows.length),
        );

        const inEngine = landed(relation);
        if (!claimedThroughout(inEngine)) return;
        ranLanded++;
        const there = compile(inEngine, duckdb, binding);
        const reader = await engine.runAndReadAll(
          `select cast(n as varchar), t1, cast(d2 as varchar) from (${there.text}) q order by n`,
          there.values.map((each) => each.value as string),
        );
        expect(reader.getRowsJson()).toEqual(expected);
      },
    ),
    { numRuns: 150 },
  );
  expect(ranLanded).toBeGreaterThan(20);
});

function claimedThroughout(relation: Relation): boolean {
  if (relation.node === 'filter' && lacking(duckdb, relation.condition) !== undefined) return false;
  return 'input' in relation ? claimedThroughout(relation.input) : true;
}

function valueOf(type: (typeof fields)[number]['type'], wire: string | null): Value {
  const read = wire === null ? undefined : readValue(type, wire);
  return read?.ok ? read.value : null;
}

function written(id: string, value: Value): string | null {
  const type = id === 'n' ? key.type : (fields.find((each) => each.id === id)?.type ?? key.type);
  return value === null ? null : writeValue(type, value);
}
