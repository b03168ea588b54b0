import { addStepAfter } from '@cendra/core';
import type { DatasetBody, Person, RunBody } from './support/cendra';
import { Cendra, postgresqlAt, rowsOf, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { parseCsv } from './support/csv';
import { datasetOf, edit, tableOf } from './support/datasets';

/** Every type PostgreSQL has, with its worst values: what arrives equals the database's own text or is marked. */

const COLUMNS: readonly (readonly [name: string, type: string, ...values: readonly (string | null)[]])[] = [
  ['small', 'smallint', '-32768', '32767', null],
  ['middle', 'integer', '-2147483648', '2147483647', null],
  ['large', 'bigint', '-9223372036854775808', '9223372036854775807', null],
  ['fixed', 'numeric(8,2)', 'NaN', '-999999.99', '0.10'],
  ['fine', 'numeric(38,37)', '9.9999999999999999999999999999999999999', '-0.0000000000000000000000000000000000001', null],
  ['wide', 'numeric(38,0)', '99999999999999999999999999999999999999', '-1', '0'],
  ['wider', 'numeric(60,2)', '9999999999999999999999999999999999999999999999999999999999.99', '0.50', null],
  ['free', 'numeric', '1e100', '0.1000', 'Infinity'],
  ['free2', 'numeric', '-Infinity', 'NaN', '123.4567890123456789012345678901234567890123456789'],
  ['coarse', 'numeric(5,-2)', '12345', '-100', null],
  ['four', 'real', '3.4028235e38', '1e-45', 'NaN'],
  ['eight', 'double precision', '1.7976931348623157e308', '5e-324', '-Infinity'],
  ['eight2', 'double precision', '1e15', '0.1', '-0'],
  ['eight3', 'double precision', '1234567890123456', '123456789012345', '1e-5'],
  ['yes', 'boolean', 'true', 'false', null],
  ['words', 'text', '', ' lead and trail ', null],
  ['words2', 'text', 'line\nbreak\r\nand "quotes", commas', '\\N', '\\.'],
  ['words3', 'text', '=1+1', '😀 ẞ é', 'null'],
  ['short', 'varchar(10)', 'abc', '', null],
  ['padded', 'char(5)', 'ab', '', null],
  ['loose', 'test_citext', 'MiXed', 'mixed', null],
  ['ci', 'citext', 'MiXed', 'mixed', null],
  ['named', 'name', 'a name', '', null],
  ['onechar', '"char"', 'x', '', null],
  ['objid', 'oid', '4294967295', '0', null],
  ['regclass', 'regclass', 'pg_class', null, null],
  ['nets', 'cidr', '10.0.0.0/8', '::/0', null],
  ['mac8', 'macaddr8', '08:00:2b:01:02:03:04:05', null, null],
  ['straight', 'line', '{1,-1,0}', null, null],
  ['piece', 'lseg', '[(0,0),(1,1)]', null, null],
  ['boxed', 'box', '(1,1),(0,0)', null, null],
  ['way', 'path', '((0,0),(1,1))', '[(0,0),(1,1)]', null],
  ['shape', 'polygon', '((0,0),(1,1),(1,0))', null, null],
  ['round', 'circle', '<(0,0),2>', null, null],
  ['asked', 'tsquery', "'bee' & 'hive'", '', null],
  ['route', 'jsonpath', '$."a"[*]', null, null],
  ['lsn', 'pg_lsn', '16/B374D848', null, null],
  ['nums', 'numrange', '[0.1,1.50)', 'empty', null],
  ['longs', 'int8range', '[1,9223372036854775807)', '(,)', null],
  ['times', 'tsrange', '["2024-01-01 00:00:00",infinity)', null, null],
  ['moments', 'tstzrange', '["2024-01-01 00:00:00+00",)', null, null],
  ['days', 'daterange', '[2024-02-28,2024-03-01)', null, null],
  ['mdays', 'datemultirange', '{[2024-01-01,2024-01-02),[2024-05-01,)}', '{}', null],
  ['pair', 'test_pair', '(1,"a,b")', '(,)', null],
  ['moods', 'test_mood[]', '{calm,NULL}', '{}', null],
  ['mood', 'test_mood', 'calm', 'busy', null],
  ['net', 'inet', '10.0.0.1/8', '::1', null],
  ['mac', 'macaddr', '08:00:2b:01:02:03', null, null],
  ['id', 'uuid', '00000000-0000-0000-0000-000000000000', 'ffffffff-ffff-ffff-ffff-ffffffffffff', null],
  ['raw', 'bytea', '\\x00ff', '\\x', null],
  ['list', 'integer[]', '{1,NULL,3}', '{}', '{{1,2},{3,4}}'],
  ['texts', 'text[]', '{"a,b","c\\"d",NULL,"NULL"}', '{""}', null],
  ['span', 'int4range', '[1,10)', 'empty', '(,)'],
  ['spans', 'int4multirange', '{[1,2),[5,9)}', '{}', null],
  ['limited', 'test_limited', '1.50', '99.99', null],
  ['doc', 'json', '{"b": 1,  "a": [null, 1e400]}', '"x"', 'null'],
  ['docb', 'jsonb', '{"b": 1, "a": [null, 12345678901234567890.123]}', '[]', null],
  ['xmlish', 'xml', '<a>b</a>', null, null],
  ['bits', 'bit(4)', '1010', '0000', null],
  ['varbits', 'bit varying', '1', '', null],
  ['cash', 'money', '1234.56', '-0.01', null],
  ['spot', 'point', '(1,2)', '(1e300,-0.5)', null],
  ['sought', 'tsvector', "'bee':1 'hive':2", '', null],
  ['day', 'date', '4713-01-01 BC', 'infinity', '2024-02-29'],
  ['day2', 'date', '-infinity', '12345-01-01', '0001-01-01'],
  ['hour', 'time', '24:00:00', '00:00:00.000001', '12:00:00'],
  ['hourz', 'timetz', '12:00:00+05:30', '23:59:59-12', null],
  ['at', 'timestamp', '4713-01-01 00:00:00 BC', 'infinity', '2024-02-29 23:59:59.999999'],
  ['at2', 'timestamp', '-infinity', '0044-03-15 12:00:00 BC', '294276-12-31 23:59:59'],
  ['at3', 'timestamp', '12345-01-01 00:00:00', '9999-12-31 23:59:59.999999', '0001-01-01 00:00:00'],
  ['instant', 'timestamptz', '2024-03-31 02:30:00+01', 'infinity', '1970-01-01 00:00:00+00'],
  ['lasting', 'interval', '1 year 2 mons 3 days 04:05:06.789', '-1 days', null],
];

let cendra: Cendra;
let analyst: Person;
let source: string;
const database = unique('odd');

const HOSTILE = [
  'search_path = evil, pg_catalog',
  'transform_null_equals = on',
  'quote_all_identifiers = on',
  'standard_conforming_strings = off',
  "datestyle = 'SQL, DMY'",
  "intervalstyle = 'iso_8601'",
  "timezone = 'Asia/Kathmandu'",
  'extra_float_digits = -10',
  "bytea_output = 'escape'",
  'array_nulls = off',
  'xmloption = document',
];

const LINES = [1_998_900, 1_999_999, 2_050_000, 2_097_152];

beforeAll(async () => {
  await withSuperuser('postgres', async (client) => {
    await client.query(`create database ${database}`);
    await client.query(`grant connect on database ${database} to cendra_read`);
  });
  await withSuperuser(database, async (client) => {
    // Whoever owns the database may have set a role's sessions up to say something else.
    await client.query(
      "create schema evil; grant usage on schema evil to cendra_read; create function evil.lower(text) returns text immutable language sql as $$ select 'evil'::text $$",
    );
    for (const setting of HOSTILE) await client.query(`alter role cendra_read in database ${database} set ${setting}`);
    await client.query('create extension citext; create type test_pair as (n int, word text)');
    await client.query("create type test_mood as enum ('calm', 'busy'); create domain test_limited as numeric(4,2) check (value > 0)");
    await client.query(
      "create collation test_loose (provider = icu, locale = 'und-u-ks-level2', deterministic = false); create domain test_citext as text collate test_loose",
    );
    await client.query(`create table odd (n int primary key, ${COLUMNS.map(([name, type]) => `${name} ${type}`).join(', ')})`);
    for (const row of [0, 1, 2]) {
      await client.query(`insert into odd values ($1, ${COLUMNS.map(([, type], index) => `$${index + 2}::text::${type}`).join(', ')})`, [
        row,
        ...COLUMNS.map((each) => each[row + 2] ?? null),
      ]);
    }
    await client.query(
      "create table long (n int, body text); insert into long values (1, repeat('bee ', 2621440)), (2, 'short'), (3, null)",
    );
    for (const bytes of LINES)
      await client.query(`create table line_${bytes} (n int, body text); insert into line_${bytes} values (1, repeat('x', ${bytes}))`);
    await client.query("create table ordered (word text); insert into ordered values (U&'\\FEFFab'), (U&'\\FEFF'), ('x')");
    await client.query(
      "create table far (word text, amount numeric); insert into far values ('a', 1e30), ('a', 1), ('b', 1.25), ('b', 2.5)",
    );
    await client.query('create table hollow (nothing text); insert into hollow select null from generate_series(1, 5)');
    await client.query("create table bare (word text); insert into bare values (null), (''), ('x'), (null)");
    await client.query(
      'create table "Odd ""name"", here" ("Select" int, "a""b" text, "ünï çødé" text, " blank " text); insert into "Odd ""name"", here" values (1, \'q\', \'u\', \'b\')',
    );
    await client.query('grant select on all tables in schema public to cendra_read');
  });
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  const steward = await cendra.signIn('steward');
  const made = await steward.post<{ id: string }>('/sources', {
    name: 'Odd values',
    mark: 'od',
    ...postgresqlAt({ database }),
  });
  source = made.id;
  await steward.ask('PUT', `/sources/${source}/access`, { people: [analyst.id] });
});
afterAll(async () => {
  await cendra.stop();
  await withSuperuser('postgres', (client) => client.query(`drop database ${database} with (force)`));
});

/** How Cendra reads a column, as SQL for the comparison: char(n) without padding, real through its shortest text, yes/no as a word, zero without a sign. */
function ownText(name: string, type: string): string {
  if (type === 'real') return `${name}::text::double precision::text`;
  return type === 'double precision' ? `(${name} + 0)::text` : `${name}::text`;
}

async function full(
  table: string,
): Promise<{ readonly run: RunBody; readonly cells: readonly (readonly unknown[])[]; readonly csv: string }> {
  const dataset = await datasetOf(analyst, source, table, 'public');
  const done = await run(analyst, dataset, 'full');
  if (!done.result) throw new Error(JSON.stringify(done));
  return {
    run: done,
    cells: await rowsOf(analyst, done.result.id),
    csv: (await analyst.ask('GET', `/results/${done.result.id}/file?format=csv`)).text,
  };
}

test('each value arrives as the database’s own text, or marked with it', async () => {
  const { run: done, cells, csv } = await full('odd');
  const own = await withSuperuser(database, (client) =>
    client.query<(string | null)[]>({
      text: `select n::text, ${COLUMNS.map(([name, type]) => ownText(name, type)).join(', ')} from odd order by n`,
      rowMode: 'array',
    }),
  );
  const marked = new Set<string>();
  const wrong: string[] = [];
  own.rows.forEach((expected, at) =>
    expected.forEach((value, index) => {
      const cell = cells[at]?.[index + 1];
      const isMark = typeof cell === 'object' && cell !== null && 'm' in cell;
      if (isMark) marked.add(COLUMNS[index - 1]?.[0] ?? '');
      const shown = isMark ? cell.m : cell;
      if (shown !== value) wrong.push(`${COLUMNS[index - 1]?.[0]}: ${JSON.stringify(cell)} instead of ${JSON.stringify(value)}`);
    }),
  );
  expect(wrong).toEqual([]);
  expect([...marked].sort()).toEqual(['at', 'at2', 'at3', 'day', 'day2', 'fixed', 'free', 'free2', 'instant']);
  expect(Object.values(done.result?.misfits ?? {}).reduce((sum, each) => sum + each, 0)).toBe(15);

  const [, ...lines] = parseCsv(csv);
  const neutral = (value: string | null, type: string) =>
    value !== null && (type.endsWith('[]') || PLAIN.every((each) => !type.startsWith(each))) && /^[=+\-@\t\r]/.test(value)
      ? `'${value}`
      : value;
  const expectedLines = own.rows.map((row) =>
    row.map((value, index) => (index === 0 ? value : neutral(value, COLUMNS[index - 1]?.[1] ?? ''))),
  );
  expect(lines).toEqual(expectedLines);
});

/** Types whose values are no text in the take-away, so that a minus sign is no formula. */
const PLAIN = ['smallint', 'integer', 'bigint', 'real', 'double', 'boolean', 'date', 'time', 'numeric', 'test_limited'];

test('a very long text is cut in the grid, whole on demand and whole in the take-away', async () => {
  const { cells, csv, run: done } = await full('long');
  const expected = 'bee '.repeat(2_621_440);
  const long = cells[0]?.[2] as { t: string; n: number };
  expect([long.t.length, long.n]).toEqual([1_000, expected.length]);
  expect(cells.map((row) => row[1])).toEqual(['1', '2', '3']);
  const column = done.result?.columns[1]?.id;
  const whole = await analyst.get<{ text: string }>(`/results/${done.result?.id}/cell?row=0&field=${column}`);
  expect(whole.text === expected).toBe(true);
  expect(csv.length).toBe('n,body\n'.length + '1,'.length + expected.length + 1 + '2,short\n'.length + '3,\n'.length);
});

test.each(LINES)('a text of %i bytes, about what the engine’s reader takes in a line, arrives whole', async (bytes) => {
  const { cells } = await full(`line_${bytes}`);
  expect(cells).toEqual([['0', '1', { t: 'x'.repeat(1_000), n: bytes }]]);
});

test('one column alone keeps its nulls apart from empty texts, also when all are null', async () => {
  const hollow = await full('hollow');
  expect([hollow.run.result?.rows, hollow.cells.map((row) => row[1])]).toEqual(['5', [null, null, null, null, null]]);
  const bare = await full('bare');
  expect(bare.cells.map((row) => row[1])).toEqual([null, '', 'x', null]);
});

test('what is no number is nothing in what is made of it', async () => {
  const made = {
    as_whole: 'cast(fixed as integer)',
    as_shown: "format_number(fixed, '0.00')",
    as_text: 'cast(fixed as text)',
    in_all: 'sum(fixed) over ()',
  };
  const plain = await datasetOf(analyst, source, 'odd', 'public', ['fixed']);
  const table = plain.definition.steps[0]?.id ?? '';
  const fields = Object.entries(made).map(([name, text]) => ({ id: unique(name), name, expression: { text, refs: [] } }));
  const step = { id: unique('step'), kind: 'calculate' as const, name: '', off: false, inputs: [table], fields };
  const dataset = await edit(analyst, plain, addStepAfter(plain.definition, table, step));
  const done = await run(analyst, dataset, 'full');
  const cells = await rowsOf(analyst, done.result?.id ?? '');
  const of = (row: number) => cells[row]?.slice(2);
  expect(of(0)).toEqual([null, null, null, '-999999.89']);
  expect(of(1)).toEqual(['-1000000', '-999999.99', '-999999.99', '-999999.89']);
  expect(of(2)).toEqual(['0', '0.10', '0.10', '-999999.89']);
});

/** Fields calculated behind a step, and in how many rows each failed, by its name. */
async function failuresBehind(given: DatasetBody, after: string, made: Readonly<Record<string, string>>) {
  const fields = Object.entries(made).map(([name, text]) => ({ id: unique(name), name, expression: { text, refs: [] } }));
  const step = { id: unique('step'), kind: 'calculate' as const, name: '', off: false, inputs: [after], fields };
  const done = await run(analyst, await edit(analyst, given, addStepAfter(given.definition, after, step)), 'full');
  const count = done.counts?.find((each) => each.step === step.id);
  return Object.fromEntries(fields.map(({ id, name }) => [name, Number(count?.fields.find(({ field }) => field === id)?.failed ?? 0)]));
}

/** What is made of values of `odd`, of which one row has NaN, one each of two an infinite or a far day, and the third neither. */
const MADE = {
  double: 'fixed * 2',
  same: 'fixed',
  more: 'fixed > 5',
  stood_in: 'coalesce(fixed, 0)',
  absent: 'fixed is null',
  month: 'extract(month from day)',
  total: 'sum(fixed) over ()',
};
const FAILED = { double: 1, same: 0, more: 1, stood_in: 0, absent: 0, month: 2, total: 0 };

test('what is made of a value that fits no type has failed, and counts', async () => {
  const plain = await datasetOf(analyst, source, 'odd', 'public', ['fixed', 'day']);
  const own = tableOf(plain.definition);
  expect(await failuresBehind(plain, own.id, MADE)).toEqual(FAILED);
});

test('a sum that fits no digits is none, and says of which row', async () => {
  const plain = await datasetOf(analyst, source, 'far', 'public');
  const own = tableOf(plain.definition);
  const [group = '', amount = ''] = own.fields.map((each) => each.id);
  const step = {
    id: unique('step'),
    kind: 'summarise' as const,
    name: '',
    off: false,
    inputs: [own.id],
    keys: [
      { id: unique('key'), name: 'word', expression: { text: 'word', refs: [{ kind: 'field' as const, id: group, from: 0, to: 4 }] } },
    ],
    values: [
      {
        id: unique('sum'),
        name: 'sum',
        aggregate: 'sum' as const,
        expression: { text: 'amount', refs: [{ kind: 'field' as const, id: amount, from: 0, to: 6 }] },
        among: { text: '', refs: [] },
        order: { text: '', refs: [] },
      },
    ],
  };
  const done = await run(analyst, await edit(analyst, plain, addStepAfter(plain.definition, own.id, step)), 'full');
  const cells = await rowsOf(analyst, done.result?.id ?? '');
  expect(cells.map((row) => row.slice(1)).toSorted()).toEqual([
    ['a', null],
    ['b', '3.750000000000'],
  ]);
  expect(done.counts?.find((each) => each.step === step.id)).toMatchObject({ rows: '2', failed: '1' });
});

test('a text that begins with a byte order mark keeps it, also as the very first', async () => {
  const { cells } = await full('ordered');
  expect(cells.map((row) => row[1])).toEqual(['\uFEFFab', '\uFEFF', 'x']);
});

test('names with quotes, blanks and other scripts pass through untouched', async () => {
  const { csv, cells } = await full('Odd "name", here');
  expect(parseCsv(csv)[0]).toEqual(['Select', 'a"b', 'ünï çødé', ' blank ']);
  expect(cells).toEqual([['0', '1', 'q', 'u', 'b']]);
});
