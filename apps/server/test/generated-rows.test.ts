import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import ExcelJS from 'exceljs';
import fc from 'fast-check';
import '../src/engine/byte-order-marks';
import { MISFITS, wireRow } from '../../../packages/core/test/support/wire-rows';
import type { Person } from './support/cendra';
import { Cendra, postgresqlAt, rowsOf, run } from './support/cendra';
import { folderFor, unique, withSuperuser } from './support/cluster';
import { parseCsv } from './support/csv';
import { datasetOf } from './support/datasets';
import { SOURCE_TYPES } from './support/generated';

/** Generated rows of every type, with what fits none among them: grid, profile and files are what SQL of this test's own tells of them. */

const FIELDS = Object.keys(SOURCE_TYPES);
const ROWS = 500;
const database = unique('made');
const folder = folderFor('generated-rows');

let cendra: Cendra;
let analyst: Person;
let result: string;
let ids: ReadonlyMap<string, string>;

beforeAll(async () => {
  await withSuperuser('postgres', async (client) => {
    await client.query(`create database ${database}`);
    await client.query(`grant connect on database ${database} to cendra_read`);
  });
  await withSuperuser(database, async (client) => {
    await client.query(`create table made (n int primary key, ${FIELDS.map((each) => `${each} ${SOURCE_TYPES[each]}`).join(', ')})`);
    for (const [n, row] of fc.sample(wireRow, { seed: 15, numRuns: ROWS }).entries())
      await client.query(`insert into made values ($1, ${FIELDS.map((_each, at) => `$${at + 2}`).join(', ')})`, [
        n,
        ...FIELDS.map((each) => row[each]),
      ]);
    await client.query('grant select on made to cendra_read');
  });
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  const steward = await cendra.signIn('steward');
  const { id: source } = await steward.post<{ id: string }>('/sources', { name: 'Made', mark: 'md', ...postgresqlAt({ database }) });
  await steward.ask('PUT', `/sources/${source}/access`, { people: [analyst.id] });
  const dataset = await datasetOf(analyst, source, 'made', 'public');
  const done = await run(analyst, dataset, 'full');
  if (!done.result) throw new Error(JSON.stringify(done));
  result = done.result.id;
  ids = new Map(done.result.columns.map((each) => [each.name, each.id]));
});
afterAll(async () => {
  await cendra.stop();
  await withSuperuser('postgres', (client) => client.query(`drop database ${database} with (force)`));
});

const sql = async (text: string) =>
  (
    await withSuperuser(database, async (client) => {
      await client.query("set TimeZone = 'UTC'; set extra_float_digits = 1");
      return client.query<(string | null)[]>({ text, rowMode: 'array' });
    })
  ).rows;

const isMisfit = (field: string) =>
  MISFITS[field] ? `coalesce(${field}::text in (${MISFITS[field].map((each) => `'${each}'`).join(', ')}), false)` : 'false';
/** The field as a value of its type: null where it is none. */
const kept = (field: string) => (MISFITS[field] ? `case when ${isMisfit(field)} then null else ${field} end` : field);
/** As Cendra says yes and no; zero has no sign. */
const told = (field: string, of = field) =>
  SOURCE_TYPES[field] === 'boolean'
    ? `case ${of} when true then 'true' when false then 'false' end`
    : `(${of}${field === 'f1' ? ' + 0' : ''})::text`;

/** A row that needs more room may be kept, and read, before others. */
const byNumber = (a: readonly unknown[], b: readonly unknown[]) => Number(a[1]) - Number(b[1]);

test('every cell is the database’s own text, and marked where it fits no type', async () => {
  const expected = await sql(
    `select ${FIELDS.flatMap((each) => [told(each), `(${isMisfit(each)})::text`]).join(', ')} from made order by made.n`,
  );
  const cells = (await rowsOf(analyst, result)).toSorted(byNumber);
  const misfits = expected.flatMap((row) => row.filter((_cell, at) => at % 2 === 1 && row[at] === 'true')).length;
  expect(misfits).toBeGreaterThan(100);
  expect(
    cells.map((row) => row.slice(2).map((cell) => (typeof cell === 'object' && cell !== null && 'm' in cell ? [cell.m, 'misfit'] : cell))),
  ).toEqual(expected.map((row) => FIELDS.map((_field, at) => (row[2 * at + 1] === 'true' ? [row[2 * at], 'misfit'] : row[2 * at]))));
});

test.each(FIELDS)('the profile of %s is what SQL tells', async (field) => {
  const numeric = !['text', 'boolean', 'date'].includes(SOURCE_TYPES[field] ?? '') && !/^time/.test(SOURCE_TYPES[field] ?? '');
  const ordered = SOURCE_TYPES[field] !== 'boolean';
  const value = field === 'f1' ? "case when f1 not in ('NaN', 'Infinity', '-Infinity') then f1 end" : kept(field);
  const binary = SOURCE_TYPES[field] === 'text' ? ' collate "C"' : '';
  const end = (which: 'min' | 'max') => (ordered ? told(field, `${which}(v${binary})`) : 'null::text');
  const [expected = []] = await sql(
    `select count(*)::text, (count(*) - count(w))::text, count(distinct w)::text, ${end('min')}, ${end('max')} from (select ${value} as v, ${kept(field)} as w from made) x`,
  );
  const profile = await analyst.get<
    Record<string, unknown> & { mean: string | null; top: readonly { value: string | null; rows: string }[] }
  >(`/results/${result}/profile?field=${ids.get(field)}`);
  const same = (text: unknown) =>
    numeric && typeof text === 'string'
      ? text
          .replace(/(\.\d*?)0+$/, '$1')
          .replace(/\.$/, '')
          .replace(/^-0$/, '0')
      : text;
  expect([profile.rows, profile.nulls, profile.distinct, same(profile.least), same(profile.greatest)]).toEqual([
    ...expected.slice(0, 3),
    ...expected.slice(3).map(same),
  ]);
  const counts = await sql(`select count(*)::text from (select ${kept(field)} as w from made) x group by w order by count(*) desc limit 8`);
  expect(profile.top.map((each) => each.rows)).toEqual(counts.map(([count]) => count));
  if (!numeric || field === 'f1') return;
  const [[mean = null] = []] = await sql(`select avg(${value})::text from made`);
  const [own, exact] = [Number(profile.mean), Number(mean)];
  // It is told to six decimals.
  expect(Math.abs(own - exact)).toBeLessThanOrEqual(Math.max(1e-6, 1e-9 * Math.abs(exact)));
});

/** A moment of a spreadsheet, whose times are of its day 0, to the millisecond, which is what it keeps. */
const momentOf = (text: string | null) => {
  const [, day = '1899-12-30', clock = '00:00:00'] = /^(\d{4}-\d\d-\d\d)? ?([\d:.]+)?/.exec(text ?? '') ?? [];
  return new Date(`${day}T${clock}Z`).toISOString();
};

describe('a file of them', () => {
  const fileOf = async (format: string) => {
    const address = `${analyst.address()}/api/results/${result}/file?format=${format}`;
    return Buffer.from(await (await fetch(address, { headers: { cookie: analyst.cookie } })).arrayBuffer());
  };
  const expected = (of: (field: string) => string) => sql(`select ${['n', ...FIELDS].map(of).join(', ')} from made order by made.n`);

  test('as NDJSON has every value, and what fits no type as text', async () => {
    const lines = (await fileOf('ndjson')).toString().trimEnd().split('\n');
    const cells = lines.map((line) =>
      ['n', ...FIELDS].map((field) => new RegExp(`"${field}":("(?:[^"\\\\]|\\\\.)*"|[^,}]+)`).exec(line)?.[1] ?? ''),
    );
    const read = cells.map((row) =>
      row.map((cell) => (cell === 'null' ? null : cell.startsWith('"') ? (JSON.parse(cell) as string) : cell)),
    );
    expect(read.toSorted((a, b) => Number(a[0]) - Number(b[0]))).toEqual(
      await expected((field) => (field === 'n' ? 'n::text' : told(field))),
    );
  });

  test('as CSV has every value, and no text that a spreadsheet would take for a formula', async () => {
    const [names, ...lines] = parseCsv((await fileOf('csv')).toString());
    expect(names).toEqual(['n', ...FIELDS]);
    const wanted = (await expected((field) => (field === 'n' ? 'n::text' : told(field)))).map((row) =>
      row.map((cell, at) =>
        cell !== null && SOURCE_TYPES[FIELDS[at - 1] ?? ''] === 'text' && /^[=+\-@\t\r]/.test(cell) ? `'${cell}` : cell,
      ),
    );
    expect(lines.toSorted((a, b) => Number(a[0]) - Number(b[0]))).toEqual(wanted);
  });

  test('as a spreadsheet has every number and day, as text where it keeps fewer digits or none such', async () => {
    const workbook = new ExcelJS.Workbook();
    await workbook.xlsx.load((await fileOf('xlsx')) as unknown as ExcelJS.Buffer);
    const rows: (readonly unknown[])[] = [];
    workbook.worksheets[0]?.eachRow({ includeEmpty: true }, (row, number) => {
      if (number > 1) rows.push(Array.from({ length: FIELDS.length + 1 }, (_, at) => row.getCell(at + 1).value));
    });
    const wanted = await expected((field) => (field === 'n' ? 'n::text' : told(field)));
    const kinds = new Map<string, number>();
    for (const [at, row] of rows.toSorted((a, b) => Number(a[0]) - Number(b[0])).entries())
      FIELDS.forEach((field, index) => {
        const cell = row[index + 1];
        const text = wanted[at]?.[index + 1] ?? null;
        // A program that reads the file takes the escapes of controls back.
        if (text !== null && SOURCE_TYPES[field] === 'text' && /\p{Cc}|\uffff|_x/u.test(text)) return;
        const kind = cell instanceof Date ? 'day' : typeof cell;
        kinds.set(kind, (kinds.get(kind) ?? 0) + 1);
        if (typeof cell === 'number') expect([field, cell]).toEqual([field, Number(text)]);
        else if (cell instanceof Date) expect([field, cell.toISOString()]).toEqual([field, momentOf(text)]);
        // A cell knows no zone.
        else
          expect([field, cell === null ? null : String(cell)]).toEqual([field, text === '' ? null : (text?.replace(/\+00$/, '') ?? null)]);
      });
    expect([...kinds.keys()].toSorted()).toEqual(['boolean', 'day', 'number', 'object', 'string']);
  });

  test('as Parquet has every value, and what fits no type beside it', async () => {
    const file = join(folder, 'made.parquet');
    writeFileSync(file, await fileOf('parquet'));
    const connection = await (await DuckDBInstance.create(':memory:')).connect();
    await connection.run("set TimeZone='UTC'");
    const beside = Object.keys(MISFITS);
    const list = ['n', ...FIELDS.filter((each) => each !== 'f1'), ...beside.map((each) => `${each} as it is kept`)];
    const read = await connection.runAndReadAll(`select ${list.map((each) => `"${each}"::varchar`).join(', ')} from '${file}' order by n`);
    const rows = read.getRowsJson() as (string | null)[][];
    const floats = (await connection.runAndReadAll(`select f1 from '${file}' order by n`)).getRows().map(([cell]) => cell);
    connection.closeSync();
    const wanted = await sql(
      `select n::text, ${FIELDS.filter((each) => each !== 'f1')
        .map((each) => told(each, kept(each)))
        .join(', ')},
         ${beside.map((each) => `case when ${isMisfit(each)} then ${each}::text end`).join(', ')} from made order by made.n`,
    );
    expect(rows).toEqual(wanted);
    expect(floats).toEqual(
      (await sql('select (f1 + 0)::text from made order by n')).map(([cell]) => (cell === null ? null : Number(cell))),
    );
  });
});
