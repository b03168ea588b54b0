import { DuckDBInstance } from '@duckdb/node-api';
import type { DuckDBConnection } from '@duckdb/node-api';
import '../src/engine/byte-order-marks';
import fc from 'fast-check';
import type { Client } from 'pg';
import type { Dialect, Expression, Relation, TableColumn } from '@cendra/core';
import { examples } from '../../../packages/core/test/support/examples';
import {
  calculated,
  cast,
  checkExpression,
  COMMON_CALENDAR,
  compile,
  datetime,
  duckdb,
  duckdbTypeName,
  evaluate,
  failureOf,
  instant,
  lacking,
  markBeside,
  nodesOf,
  postgresql,
  readIn,
  text,
  withMisfits,
  writeValue,
} from '@cendra/core';
import { conditionExpression, dayExpression, numberExpression, textExpression } from '../../../packages/core/test/support/generate';
import { isMisfit, keptOf, MISFITS, schema, wireRow } from '../../../packages/core/test/support/wire-rows';
import type { Generated } from '../../../packages/core/test/support/generate';
import type { WireRow } from '../../../packages/core/test/support/wire-rows';
import { NOW, rowFrom } from '../../../packages/core/test/support/rows';
import { SOURCE_TYPES } from './support/generated';
import { superuser } from './support/cluster';

/** The evaluator in core, PostgreSQL and DuckDB mean the same by an expression: value by value and null by null. */

const names = schema.fields.map((each) => each.id);
const row: TableColumn = { id: 'n', name: 'n', type: { kind: 'whole' }, column: 'n', sourceType: 'bigint', looseText: false };
const columns: readonly TableColumn[] = [
  row,
  ...schema.fields.map(({ id, name, type }) => ({ id, name, type, column: id, sourceType: SOURCE_TYPES[id] ?? 'text', looseText: false })),
];

const relations = {
  postgresql: { node: 'table', site: { kind: 'source', source: 's' }, schema: 'pg_temp', table: 'odd', columns },
  duckdb: { node: 'landed', handle: 'odd', columns },
} satisfies Record<string, Relation>;

let client: Client;
let engine: DuckDBConnection;

beforeAll(async () => {
  client = await superuser('postgres');
  await client.query(`create temp table odd (n bigint, ${names.map((each) => `${each} ${SOURCE_TYPES[each]}`).join(', ')})`);
  engine = await (await DuckDBInstance.create(':memory:')).connect();
  await engine.run("set TimeZone='UTC'");
  const kept = schema.fields.map(({ id, type }) => `${id} ${duckdbTypeName(type)}`);
  const marks = marked.map((each) => `"${markBeside(each).id}" varchar`);
  await engine.run(`create table odd (n bigint, ${[...kept, ...marks].join(', ')})`);
});

afterAll(async () => {
  await client.end();
  engine.closeSync();
});

/** Fields whose values have marks beside them where they have landed. */
const marked = Object.keys(MISFITS);

function statementOf(expressions: readonly Expression[], dialect: Dialect) {
  const fields = expressions.map((expression, index) => ({ id: `e${index}`, name: `e${index}`, type: expression.type, expression }));
  const relation = calculated({ ...relations[dialect.name], name: 'odd rows' }, fields, undefined);
  const shown = [row, ...fields.map(({ id, name, type }) => ({ id, name, type }))];
  const chosen: Relation = { node: 'choose', input: relation, columns: shown };
  return compile(withMisfits(chosen, new Map([['odd', marked]])), dialect, { bound: new Map(), now: NOW });
}

async function inPostgresql(rows: readonly WireRow[], expressions: readonly Expression[]) {
  await client.query('truncate odd');
  for (const [index, wire] of rows.entries())
    await client.query({
      text: `insert into odd values (${[index, ...names].map((_, at) => `$${at + 1}`).join(', ')})`,
      values: [index, ...names.map((each) => wire[each])],
    });
  const { text, values } = statementOf(expressions, postgresql('numbered'));
  const result = await client.query<(string | null)[]>({
    text: `select * from (${text}) q order by 1`,
    values: values.map((each) => each.value),
    rowMode: 'array',
  });
  return result.rows.map((each) => each.slice(1));
}

async function inDuckdb(rows: readonly WireRow[], expressions: readonly Expression[]) {
  await engine.run('delete from odd');
  for (const [index, wire] of rows.entries()) {
    const casts = schema.fields.map(({ type }, at) => `cast($${at + 2} as ${duckdbTypeName(type)})`);
    const marks = marked.map((each) => (isMisfit(each, wire[each] ?? null) ? (wire[each] ?? null) : null));
    const places = [...casts, ...marks.map((_each, at) => `$${casts.length + at + 2}::varchar`)];
    await engine.run(`insert into odd values ($1, ${places.join(', ')})`, [
      index,
      ...names.map((each) => keptOf(each, wire[each] ?? null)),
      ...marks,
    ]);
  }
  const { text, values } = statementOf(expressions, duckdb);
  const shown = expressions.map((_, index) => `cast(e${index} as varchar)`).join(', ');
  const reader = await engine.runAndReadAll(
    `select ${shown} from (${text}) q order by n`,
    values.map((each) => each.value as string),
  );
  return reader.getRowsJson() as (string | null)[][];
}

/** Digits, text and truth agree exactly; floating numbers at 1e-12 relative. */
function agree(expression: Expression, wire: WireRow, told: string | null): boolean {
  // A field alone leaves its source as it is.
  const given = expression.op === 'field' ? keptOf(expression.id, told) : told;
  const value = evaluate(expression, rowFrom(wire));
  if (value === null || given === null) return value === null && given === null;
  if (expression.type.kind === 'yesno') return (given === 't' || given === 'true') === value;
  if (expression.type.kind !== 'float') return writeValue(expression.type, value) === given;
  const [a, b] = [value as number, Number(given.replace(/^(-?)inf$/, '$1Infinity'))];
  return (
    Object.is(a, b) ||
    a === b ||
    Math.abs(a - b) <= 1e-12 * Math.max(Math.abs(a), Math.abs(b)) ||
    Math.max(Math.abs(a), Math.abs(b)) < 1e-300
  );
}

async function compare(engineName: string, run: typeof inPostgresql, rows: readonly WireRow[], made: readonly Generated[]) {
  const expressions = made.map((each) => each.expression);
  const given = await run(rows, expressions);
  const wrong = rows.flatMap((wire, at) =>
    made.flatMap(({ source, expression }, index) => {
      const got = given[at]?.[index] ?? null;
      if (agree(expression, wire, got)) return [];
      const value = evaluate(expression, rowFrom(wire));
      return [
        `${source} on ${JSON.stringify(wire)}: core ${value === null ? 'null' : writeValue(expression.type, value)}, ${engineName} ${got}`,
      ];
    }),
  );
  expect(wrong).toEqual([]);
}

const rows = fc.array(wireRow, { minLength: 1, maxLength: 5 });

/** Long accounts of failures take the engines seconds to plan and say nothing more. */
const MOST_OPERATIONS = 800;

/** An expression, and where computing it fails. */
const withFailure = (made: Generated): readonly Generated[] => {
  const failure = failureOf(made.expression);
  return failure && nodesOf(failure).length <= MOST_OPERATIONS
    ? [made, { source: `failure of ${made.source}`, expression: failure }]
    : [made];
};
const mixed = fc
  .array(fc.oneof(numberExpression, textExpression, dayExpression, conditionExpression), { minLength: 1, maxLength: 6 })
  .map((made) => made.flatMap(withFailure));

test('an instant means the same whatever zone the session has', async () => {
  const sources = [
    'cast(z1 as text)',
    'cast(cast(z1 as date) as text)',
    'extract(hour from z1)',
    "format_date(z1, 'yyyy-MM-dd HH:mm')",
    "cast(z1 + interval '1' day as text)",
    'cast(start_of_day(z1) as text)',
    "cast(z1 as timestamp) < timestamp '2024-03-31 01:00'",
    'z1 - day1',
  ];
  const made = sources.map((source) => ({
    source,
    expression: checkExpression(source, { schema, parameters: [] }).expression as Expression,
  }));
  const moments = ['2024-03-31 00:59:59.999999+00', '2024-03-31 01:00:00+00', '2025-10-26 00:30:00+00', '2025-10-26 01:30:00+00'];
  const given = moments.map((z1): WireRow => ({ ...Object.fromEntries(names.map((each) => [each, null])), z1, day1: '2024-03-31' }));
  for (const zone of ['Europe/Berlin', 'America/New_York', 'UTC']) {
    await client.query(`set TimeZone='${zone}'`);
    await compare(`PostgreSQL in ${zone}`, inPostgresql, given, made);
  }
});

test('a number without a fixed scale, whatever its digits, means the same in all that is made of it', async () => {
  const made = [
    'open + 1',
    'open - w1',
    'd2 + open',
    'open * d2',
    'open * open',
    'open / 3',
    '1 / open',
    '-open',
    'abs(open)',
    'floor(open)',
    'round(open, 2)',
    'mod(open, 7)',
    'greatest(open, 1)',
    'coalesce(open, 0)',
    'nullif(open, 1)',
    'case when open > 5 then open else d2 end',
    'cast(open as integer)',
    'cast(open as decimal(10,2))',
    'cast(open as double precision)',
    'cast(open as text)',
    "format_number(open, '#,##0.00')",
    'open between -1 and 1',
    'open in (1, 1.5)',
  ].flatMap((source) => {
    const { expression, problems } = checkExpression(source, { schema, parameters: [] });
    expect(problems).toEqual([]);
    return withFailure({ source, expression: expression as Expression });
  });
  const thirty = `1${'0'.repeat(30)}`;
  const numbers = [
    ...(MISFITS.open ?? []),
    thirty,
    `-${thirty}`,
    `${'9'.repeat(26)}.5`,
    `1${'0'.repeat(60)}.5`,
    `0.${'0'.repeat(39)}1`,
    '1.00',
    '-0.5',
    null,
  ];
  const given = numbers.map((open): WireRow => ({ ...Object.fromEntries(names.map((each) => [each, null])), open, d2: '2.50', w1: '3' }));
  await compare('PostgreSQL', inPostgresql, given, made);
  expect(made.filter(({ expression }) => lacking(duckdb, expression) === undefined)).toEqual([]);
});

test.each(['Europe/Vienna', 'America/New_York', 'Asia/Kolkata', 'Australia/Lord_Howe', 'Pacific/Apia', 'America/St_Johns'])(
  'clocks of %s show the same in core and in both engines',
  async (zone) => {
    const zoned = { fields: schema.fields.map((each) => ({ ...each, type: readIn(zone, each.type) })) };
    const calendar = { ...COMMON_CALENDAR, zone };
    const made = [
      'cast(cast(z1 as timestamp) as text)',
      'cast(z1 as date)',
      'cast(z1 as time)',
      'start_of_month(z1)',
      'extract(hour from z1)',
      "format_date(z1, 'yyyy-MM-dd HH:mm:ss')",
      'current_date',
      'cast(localtimestamp as text)',
      'cast(current_timestamp as text)',
      'cast(current_timestamp as date)',
    ].map((source) => {
      const { expression, problems } = checkExpression(source, { schema: zoned, parameters: [], calendar });
      expect(problems).toEqual([]);
      return { source, expression: expression as Expression };
    });
    // Nobody can write this cast; groups without rows are made by it.
    const shown: Expression = { op: 'field', type: datetime, id: 'at1' };
    made.push({ source: 'at1 as an instant', expression: cast(cast(shown, readIn(zone, instant)), text) });
    const hours = (day: string) =>
      Array.from({ length: 26 }, (_, half) => `${day} ${String(Math.floor(half / 2)).padStart(2, '0')}:${half % 2 ? 29 : 30}:00`);
    const days = [
      '0001-01-02',
      '1582-10-10',
      '1850-06-01',
      '1893-04-01',
      '1945-08-01',
      '1970-01-01',
      '2011-12-30',
      '2024-03-10',
      '2024-03-31',
      '2024-04-07',
      '2024-10-06',
      '2024-10-27',
      '2024-11-03',
      '2037-07-01',
      '2099-07-01',
      '9999-12-30',
    ];
    const given = days.flatMap(hours).map((at): WireRow => ({
      ...Object.fromEntries(names.map((each) => [each, null])),
      z1: `${at}+00`,
      at1: at,
      day1: at.slice(0, 10),
    }));
    await compare('PostgreSQL', inPostgresql, given, made);
    await compare(
      'DuckDB',
      inDuckdb,
      given,
      made.filter(({ expression }) => lacking(duckdb, expression) === undefined),
    );
  },
);

test('PostgreSQL agrees with core on generated expressions over generated rows', async () => {
  await fc.assert(
    fc.asyncProperty(rows, mixed, (given, made) => compare('PostgreSQL', inPostgresql, given, made)),
    examples(110),
  );
});

test('DuckDB agrees with core on whatever it claims', async () => {
  let claimed = 0;
  await fc.assert(
    fc.asyncProperty(rows, mixed, async (given, made) => {
      const run = made.filter(({ expression }) => lacking(duckdb, expression) === undefined);
      claimed += run.length;
      if (run.length > 0) await compare('DuckDB', inDuckdb, given, run);
    }),
    examples(110),
  );
  expect(claimed).toBeGreaterThan(150);
});
