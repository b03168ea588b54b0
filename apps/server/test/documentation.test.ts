import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import type { DuckDBConnection } from '@duckdb/node-api';
import type { Client } from 'pg';
import type { Dialect, Expression, Relation } from '@cendra/core';
import { calculated, checkExpression, compile, duckdb, duckdbTypeName, FUNCTIONS, lacking, postgresql, WINDOWS } from '@cendra/core';
import type { Example } from '../../../packages/core/test/support/documented';
import { examplesIn, HARVEST, HARVESTS, schemaOf, valuesOf } from '../../../packages/core/test/support/documented';
import { NOW } from '../../../packages/core/test/support/rows';
import { superuser } from './support/cluster';

/** The documentation of the expression language says what core and both engines give. */

const markdown = readFileSync(join(process.cwd(), 'docs/expressions.md'), 'utf8');
const examples = examplesIn(markdown);
const tables = [
  { name: 'harvest', columns: HARVEST },
  { name: 'harvests', columns: HARVESTS },
];
const PG_TYPES: Record<string, string> = { whole: 'bigint', float: 'double precision', yesno: 'boolean', datetime: 'timestamp' };

let client: Client;
let engine: DuckDBConnection;
beforeAll(async () => {
  client = await superuser('postgres');
  engine = await (await DuckDBInstance.create(':memory:')).connect();
  for (const { name, columns } of tables) {
    const typed = (of: (type: Expression['type']) => string) => columns.map(([column, type]) => `${column} ${of(type)}`).join(', ');
    await client.query(
      `create temp table ${name} (n int, ${typed((type) => PG_TYPES[type.kind] ?? duckdbTypeName(type).replace('varchar', 'text'))})`,
    );
    await engine.run(`create table ${name} (n int, ${typed(duckdbTypeName)})`);
    for (const at of (columns[0]?.[2] ?? []).keys()) {
      const values = [at, ...columns.map(([, , wire]) => wire[at] ?? null)];
      await client.query(`insert into ${name} values (${values.map((_, index) => `$${index + 1}`).join(', ')})`, values);
      const casts = columns.map(([, type], index) => `cast($${index + 2} as ${duckdbTypeName(type)})`);
      await engine.run(`insert into ${name} values ($1, ${casts.join(', ')})`, values);
    }
  }
});
afterAll(async () => {
  await client.end();
  engine.closeSync();
});

const expressionOf = ({ source, columns }: Example) =>
  checkExpression(source, { schema: schemaOf(columns), parameters: [] }).expression as Expression;

function statementOf(example: Example, dialect: Dialect) {
  const expression = expressionOf(example);
  const name = example.columns === HARVESTS ? 'harvests' : 'harvest';
  const n = { id: 'n', name: 'n', type: { kind: 'whole' } as const };
  const columns = [n, ...example.columns.map(([column, type]) => ({ id: column, name: column, type }))];
  const table: Relation =
    dialect.name === 'duckdb'
      ? { node: 'landed', handle: name, columns }
      : {
          node: 'table',
          site: { kind: 'source', source: 's' },
          schema: 'pg_temp',
          table: name,
          columns: columns.map((each) => ({ ...each, column: each.id, sourceType: 'bigint', looseText: false })),
        };
  const value = { id: 'value', name: 'value', type: expression.type };
  const relation = calculated(table, [{ ...value, expression }], undefined);
  return compile({ node: 'choose', input: relation, columns: [n, value] }, dialect, { bound: new Map(), now: NOW });
}

/** Floating numbers and truth are written differently by each engine. */
function asWritten({ source, columns }: Example, given: string | null): string | null {
  const kind = checkExpression(source, { schema: schemaOf(columns), parameters: [] }).expression?.type.kind;
  if (given === null || kind === 'text') return given;
  return kind === 'float' ? String(Number(given)) : ({ t: 'true', f: 'false' }[given] ?? given);
}

test.each(examples)('$source', async (example) => {
  expect(valuesOf(example)).toEqual(example.gives);

  const pushed = statementOf(example, postgresql('numbered'));
  const values = pushed.values.map((each) => each.value);
  const result = await client.query<(string | null)[]>({
    text: `select value from (${pushed.text}) q order by n`,
    values,
    rowMode: 'array',
  });
  expect(result.rows.map(([value = null]) => asWritten(example, value))).toEqual(example.gives);

  if (lacking(duckdb, expressionOf(example)) !== undefined) return;
  const landed = statementOf(example, duckdb);
  const reader = await engine.runAndReadAll(
    `select cast(value as varchar) from (${landed.text}) q order by n`,
    landed.values.map((each) => each.value as string),
  );
  expect((reader.getRowsJson() as (string | null)[][]).map(([value = null]) => asWritten(example, value))).toEqual(example.gives);
});

test('every function there is has an example', () => {
  const shown = examples.map((each) => each.source).join('\n');
  const names = [...FUNCTIONS, ...WINDOWS].map((each) => each.name.split(' ')[0] ?? '');
  expect(names.filter((name) => !shown.includes(`${name}(`))).toEqual([]);
});
