import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import ExcelJS from 'exceljs';
import type { Edit } from '@cendra/core';
import type { DatasetBody, Person } from './support/cendra';
import { Cendra, run } from './support/cendra';
import { withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, fieldOf } from './support/datasets';

let cendra: Cendra;
let analyst: Person;
let source: string;
const folder = mkdtempSync(join(tmpdir(), 'cendra-files-'));
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
});
afterAll(async () => {
  await cendra.stop();
  rmSync(folder, { recursive: true });
});

const own = async (sql: string) =>
  (await withSuperuser('cooperative', (client) => client.query<(string | null)[]>({ text: sql, rowMode: 'array' }))).rows;

async function fileOf(dataset: DatasetBody, format: string): Promise<Buffer> {
  const done = await run(analyst, dataset, 'full');
  const query = new URLSearchParams({
    format,
    dataset: dataset.id,
    revision: String(dataset.revision),
    name: 'Rows',
    title: 'Harvests of all seasons',
  });
  const response = await fetch(`${analyst.address()}/api/results/${done.result?.id}/file?${query.toString()}`, {
    headers: { cookie: analyst.cookie },
  });
  expect(response.status).toBe(200);
  return Buffer.from(await response.arrayBuffer());
}

async function sheetOf(bytes: Buffer): Promise<ExcelJS.Workbook> {
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.load(bytes as unknown as ExcelJS.Buffer);
  return workbook;
}

async function parquetOf(bytes: Buffer): Promise<{
  readonly names: readonly string[];
  readonly types: readonly string[];
  readonly rows: readonly (readonly unknown[])[];
  readonly about: Readonly<Record<string, string>>;
}> {
  const file = join(folder, 'rows.parquet');
  writeFileSync(file, bytes);
  const connection = await (await DuckDBInstance.create(':memory:')).connect();
  await connection.run("set TimeZone='UTC'");
  const described = (await connection.runAndReadAll(`describe select * from '${file}'`)).getRowsJson() as string[][];
  const read = await connection.runAndReadAll(`select columns(*)::varchar from '${file}'`);
  const about = await connection.runAndReadAll(`select decode(key), decode(value) from parquet_kv_metadata('${file}')`);
  connection.closeSync();
  return {
    about: Object.fromEntries(about.getRowsJson() as [string, string][]),
    names: described.map(([name]) => name ?? ''),
    types: described.map(([, type]) => type ?? ''),
    rows: read.getRowsJson() as (string | null)[][],
  };
}

/** Harvests as they are handed over: kilos first and renamed, the batch for use only. */
async function harvests(): Promise<DatasetBody> {
  const plain = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'picked_on', 'weighed_at', 'kilos', 'floral_source', 'batch']);
  const [kilos, batch, pickedOn] = ['kilos', 'batch', 'picked_on'].map((each) => fieldOf(plain.definition, each)) as [
    string,
    string,
    string,
  ];
  const say = (field: string, property: 'name' | 'label' | 'format' | 'forUseOnly', to: unknown): Edit => ({
    kind: 'set sheet',
    field,
    property,
    to,
  });
  return edit(
    analyst,
    plain,
    say(kilos, 'name', 'net_kilos'),
    say(kilos, 'label', 'Net kilos'),
    say(kilos, 'format', { pattern: '#,##0.0', unit: 'kg' }),
    say(pickedOn, 'format', { pattern: 'd MMMM yyyy' }),
    say(batch, 'forUseOnly', true),
    { kind: 'set dataset', property: 'order', from: [], to: [kilos] },
  );
}
const HARVESTS = `select kilos::text, id::text, picked_on::text, to_char(weighed_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.000Z'), floral_source from coop.harvests`;

describe('a dataset taken away', () => {
  test('as Parquet has its names, types and every value of the database', async () => {
    const { names, types, rows, about } = await parquetOf(await fileOf(await harvests(), 'parquet'));
    expect(about).toMatchObject({ 'What it is': 'Harvests of all seasons', Rows: expect.stringContaining('complete') as string });
    expect(names).toEqual(['net_kilos', 'id', 'picked_on', 'weighed_at', 'floral_source']);
    expect(types).toEqual(['DECIMAL(8,2)', 'BIGINT', 'DATE', 'TIMESTAMP WITH TIME ZONE', 'VARCHAR']);
    const expected = await own(
      "select kilos::text, id::text, picked_on::text, to_char(weighed_at at time zone 'UTC', 'YYYY-MM-DD HH24:MI:SS') || '+00', floral_source from coop.harvests",
    );
    expect(new Set(rows.map((row) => JSON.stringify(row)))).toEqual(new Set(expected.map((row) => JSON.stringify(row))));
  });

  test('as a spreadsheet has types, formats, labels and a header that stays', async () => {
    const workbook = await sheetOf(await fileOf(await harvests(), 'xlsx'));
    const [sheet, about] = workbook.worksheets;
    expect(sheet?.views[0]).toMatchObject({ state: 'frozen', ySplit: 1 });
    expect(sheet?.getRow(1).values).toEqual([undefined, 'Net kilos, kg', 'Id', 'Picked on', 'Weighed at', 'Floral source']);
    const expected = await own(HARVESTS);
    expect(sheet?.rowCount).toBe(expected.length + 1);
    const byId = new Map(expected.map((row) => [row[1], row]));
    sheet?.eachRow((row, number) => {
      if (number === 1) return;
      const [kilos, id, pickedOn, weighedAt, floral] = (row.values as ExcelJS.CellValue[]).slice(1);
      const wanted = byId.get(String(id));
      expect([kilos ?? null, (pickedOn as Date).toISOString().slice(0, 10), (weighedAt as Date).toISOString(), floral ?? null]).toEqual([
        wanted?.[0] === null ? null : Number(wanted?.[0]),
        wanted?.[2],
        wanted?.[3],
        wanted?.[4],
      ]);
    });
    expect([sheet?.getCell('A2').numFmt, sheet?.getCell('C2').numFmt]).toEqual(['#,##0.0', 'd" "mmmm" "yyyy']);
    expect(about?.getCell('B1').value).toBe('Harvests of all seasons');
    expect(about?.getCell('B2').value).toBe('12430, complete');
  });

  test('as JSON and NDJSON has numbers with all their digits, and nulls', async () => {
    const dataset = await harvests();
    const json = (await fileOf(dataset, 'json')).toString();
    const [expected] = await own('select count(*)::text, sum(kilos)::text, count(*) filter (where kilos is null)::text from coop.harvests');
    const all = JSON.parse(json) as Record<string, unknown>[];
    expect([String(all.length), String(all.filter((each) => each.net_kilos === null).length)]).toEqual([expected?.[0], expected?.[2]]);
    expect(Object.keys(all[0] ?? {})).toEqual(['net_kilos', 'id', 'picked_on', 'weighed_at', 'floral_source']);
    const digits = [...json.matchAll(/"net_kilos":(-?\d+\.\d\d)[,}]/g)].reduce(
      (sum, [, each]) => sum + BigInt((each ?? '0').replace('.', '')),
      0n,
    );
    expect(`${digits / 100n}.${String(digits % 100n).padStart(2, '0')}`).toBe(expected?.[1]);
    const lines = (await fileOf(dataset, 'ndjson')).toString().trimEnd().split('\n');
    expect(lines.map((line) => JSON.parse(line) as unknown)).toEqual(all);
  });

  test('as CSV has the names of the field sheet', async () => {
    const [header] = (await fileOf(await harvests(), 'csv')).toString().split('\n');
    expect(header).toBe('net_kilos,id,picked_on,weighed_at,floral_source');
  });
});

describe('odd rows taken away', () => {
  const withTable = async (columns: string, rows: string, use: (dataset: DatasetBody) => Promise<void>) => {
    await withSuperuser('cooperative', (client) =>
      client.query(
        `create table coop.odd_files (${columns}); insert into coop.odd_files ${rows}; grant select on coop.odd_files to cendra_read`,
      ),
    );
    try {
      await use(await datasetOf(analyst, source, 'odd_files'));
    } finally {
      await withSuperuser('cooperative', (client) => client.query('drop table coop.odd_files'));
    }
  };

  test('with a text of two megabytes: whole where the format holds it, cut and told where it does not', () =>
    withTable('id int primary key, note text', "values (1, repeat('honey ', 350000)), (2, '=1+1')", async (dataset) => {
      const { rows } = await parquetOf(await fileOf(dataset, 'parquet'));
      expect((rows[0]?.[1] as string).length).toBe(2_100_000);
      const workbook = await sheetOf(await fileOf(dataset, 'xlsx'));
      expect((workbook.worksheets[0]?.getCell('B2').value as string).length).toBe(32_767);
      // A text, and no formula.
      expect(workbook.worksheets[0]?.getCell('B3').value).toBe('=1+1');
      expect(JSON.stringify(workbook.worksheets[1]?.getSheetValues())).toContain('1 texts are longer than 32767 characters and are cut');
      expect((await fileOf(dataset, 'csv')).toString()).toContain("'=1+1");
    }));

  test('with texts and moments a spreadsheet would change: written so that it does not', () =>
    withTable(
      'id bigint primary key, note text, at timestamp',
      `values (1234567890123456, U&'\\FEFFfirst', timestamp '2024-07-01 12:00:00.123456'),
         (2, U&'a\\007Fb\\000Dc\\0009d _x0041_', timestamp '2024-07-01 12:00:00.5'),
         (3, repeat('x', 32766) || '🐝', null)`,
      async (dataset) => {
        const [sheet, about] = (await sheetOf(await fileOf(dataset, 'xlsx'))).worksheets;
        const cell = (place: string) => sheet?.getCell(place).value;
        expect([cell('A2'), cell('A3')]).toEqual(['1234567890123456', 2]);
        // A program that reads the file takes these escapes back.
        expect([cell('B2'), cell('B3')]).toEqual(['\uFEFFfirst', 'a_x007F_b_x000D_c\td _x005F_x0041_']);
        expect(cell('B4')).toBe('x'.repeat(32_766));
        expect([cell('C2'), cell('C3')]).toEqual(['2024-07-01 12:00:00.123456', new Date('2024-07-01T12:00:00.500Z')]);
        expect(JSON.stringify(about?.getSheetValues())).toContain('1 texts are longer than 32767 characters and are cut');
      },
    ));

  test('with numbers of more digits than a spreadsheet keeps: as text there, and told', () =>
    withTable(
      'id bigint primary key, amount numeric(38,2), free numeric',
      "values (9007199254740993, 123456789012345678901234567890123456.78, 1.50), (2, 0.10, 'NaN')",
      async (dataset) => {
        const workbook = await sheetOf(await fileOf(dataset, 'xlsx'));
        const sheet = workbook.worksheets[0];
        expect([sheet?.getCell('A2').value, sheet?.getCell('B2').value, sheet?.getCell('C2').value, sheet?.getCell('C3').value]).toEqual([
          '9007199254740993',
          '123456789012345678901234567890123456.78',
          1.5,
          'NaN',
        ]);
        expect(JSON.stringify(workbook.worksheets[1]?.getSheetValues())).toContain('2 numbers have more than 15 digits');
        expect((await fileOf(dataset, 'json')).toString()).toContain('"amount":123456789012345678901234567890123456.78,"free":1.50}');
        expect((await fileOf(dataset, 'ndjson')).toString()).toContain('"amount":0.10,"free":"NaN"}');
        const { types, rows } = await parquetOf(await fileOf(dataset, 'parquet'));
        expect(types).toEqual(['BIGINT', 'DECIMAL(38,2)', 'DECIMAL(38,2)', 'VARCHAR']);
        expect(rows.map((row) => row.slice(2))).toEqual([
          ['1.50', null],
          [null, 'NaN'],
        ]);
      },
    ));

  test('with numbers and days that fit no type: kept to the last digit, or beside it as their source has them', () =>
    withTable(
      'id int, small numeric, far numeric, until date, amount numeric(8,2)',
      `values (1, 1.5, 142857142857.14285714, 'infinity', 'NaN'), (2, 0.125, 1e30, '2025-04-01', 2), (3, null, 1e-12, null, null)`,
      async (dataset) => {
        const { names, types, rows } = await parquetOf(await fileOf(dataset, 'parquet'));
        expect(names).toEqual(['id', 'small', 'far', 'until', 'until as it is kept', 'amount', 'amount as it is kept']);
        expect(types).toEqual(['BIGINT', 'DECIMAL(38,3)', 'VARCHAR', 'DATE', 'VARCHAR', 'DECIMAL(8,2)', 'VARCHAR']);
        expect(rows.map((row) => row.slice(1))).toEqual([
          ['1.500', '142857142857.14285714', null, 'infinity', null, 'NaN'],
          ['0.125', `1${'0'.repeat(30)}`, '2025-04-01', null, '2.00', null],
          [null, '0.000000000001', null, null, null, null],
        ]);
      },
    ));

  test('with three hundred fields, two of one name', () =>
    withTable(
      Array.from({ length: 300 }, (_, index) => `c${index} int`).join(', '),
      `select ${Array.from({ length: 300 }, (_, index) => String(index)).join(', ')}`,
      async (dataset) => {
        const twins = ['c1', 'c2'].map(
          (each) => ({ kind: 'set sheet', field: fieldOf(dataset.definition, each), property: 'name', to: 'same' }) as const,
        );
        const named = await edit(analyst, dataset, ...twins);
        for (const format of ['csv', 'json', 'parquet']) expect((await fileOf(named, format)).length).toBeGreaterThan(300);
        const { names } = await parquetOf(await fileOf(named, 'parquet'));
        expect([names.length, names[1], names[2]]).toEqual([300, 'same', 'same_2']);
        const proof = await run(analyst, named, 'full');
        const made = await analyst.ask('POST', `/results/${proof.result?.id}/proofs`, { dataset: named.id, revision: named.revision });
        expect(made.status).toBe(200);
      },
    ));
});

test('who lacks the source takes nothing away, and an unknown format is refused', async () => {
  const dataset = await datasetOf(analyst, source, 'regions');
  const done = await run(analyst, dataset, 'full');
  const reader = await cendra.signIn('reader');
  expect((await reader.ask('GET', `/results/${done.result?.id}/file?format=xlsx`)).status).toBe(403);
  expect((await analyst.ask('GET', `/results/${done.result?.id}/file?format=exe`)).status).toBe(400);
});
