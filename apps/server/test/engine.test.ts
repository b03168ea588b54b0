import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import fc from 'fast-check';
import { Engine, partName } from '../src/engine';
import type { StoredColumn } from '../src/engine';
import { folderFor } from './support/cluster';

/** The engine by itself: rows that landed in parts are one result, and it reaches nothing but what it is given. */

const folder = folderFor('engine');
const results = join(folder, 'results');
const engine = new Engine(results, resolve(__dirname, '../dist/engine/process.js'));
const run = { run: 'r', folder: join(folder, 'run') };
const COLUMNS: readonly StoredColumn[] = [
  { id: 'no', type: { kind: 'whole' } },
  { id: 'at', type: { kind: 'datetime' } },
];
/** Rows 4 to 6, which are the second part, have values that fit no type. */
const ROWS = Array.from({ length: 10 }, (_each, no) => (no === 4 || no === 6 ? 'infinity' : `2025-06-0${(no % 9) + 1} 10:00:00`));
const PARTS = [
  [0, 4],
  [4, 7],
  [7, 10],
] as const;
const parts = join(results, 'result', 'rows');

beforeAll(async () => {
  mkdirSync(parts, { recursive: true });
  mkdirSync(run.folder);
  await engine.do({ work: 'open', ...run });
  for (const [from, until] of PARTS) {
    const lines = ROWS.slice(from, until).map((at, index) => `${from + index},${at}\n`);
    const file = join(run.folder, 'segment.csv');
    writeFileSync(file, lines.join(''));
    const [rows, out] = [until - from, join(run.folder, 'part.parquet')];
    const csv = { format: 'csv' as const, file, filler: false, longestRow: 40 };
    const landed = await engine.do({ work: 'land', run: run.run, from: csv, rows, out, columns: [...COLUMNS] });
    expect([landed.marked, landed.misfits]).toEqual(from === 4 ? [true, { at: 2 }] : [false, {}]);
    renameSync(out, join(parts, partName(from, landed.marked)));
  }
});
afterAll(() => engine.stop());

const page = async (offset: number, limit: number) => {
  const asked = { file: parts, columns: [...COLUMNS], sorted: false, marked: true, offset, limit, cellBytes: 100, pageBytes: 1_000_000 };
  return JSON.parse(new TextDecoder().decode(await engine.do({ work: 'page', ...asked }))) as unknown[];
};

test('a page has the rows from its place on, in whichever parts they lie and whether those have marks', () =>
  fc.assert(
    fc.asyncProperty(fc.nat(11), fc.integer({ min: 1, max: 12 }), async (offset, limit) => {
      const expected = ROWS.map((at, no) => [String(no), String(no), at === 'infinity' ? { m: at } : at]);
      expect(await page(offset, limit)).toEqual(expected.slice(offset, offset + limit));
    }),
    { numRuns: 60 },
  ));

test('one cell is found by the number of its row', async () => {
  const [column] = COLUMNS;
  if (!column) throw new Error('there are columns');
  const cellAt = (row: string) => engine.do({ work: 'cell', file: parts, column, row, most: 10 });
  expect((await Promise.all(['0', '5', '9', '10'].map(cellAt))).map((each) => each.text)).toEqual(['0', '5', '9', null]);
});

describe('an instance of a run', () => {
  const ask = (text: string) => engine.do({ work: 'rows', run: run.run, landed: [], text, values: [] });

  test('reads its own folder and nothing else', async () => {
    writeFileSync(join(run.folder, 'own.csv'), '1\n');
    writeFileSync(join(folder, 'other.csv'), '1\n');
    const read = (file: string) => ask(`select * from read_csv('${file}', header=false, columns={'a': 'varchar'})`);
    expect(await read(join(run.folder, 'own.csv'))).toEqual([['1']]);
    await expect(read(join(folder, 'other.csv'))).rejects.toMatchObject({ problems: [{ code: 'engine-failed' }] });
    await expect(read(join(run.folder, '../other.csv'))).rejects.toMatchObject({ problems: [{ code: 'engine-failed' }] });
  });

  test.each(["set TimeZone='CET'", 'set enable_external_access=true', "set allowed_directories=['/']", "set temp_directory='/'"])(
    'refuses %s',
    (text) => expect(ask(text)).rejects.toMatchObject({ problems: [{ code: 'engine-failed' }] }),
  );

  test('tells time in UTC', async () => {
    expect(await ask("select current_setting('TimeZone')")).toEqual([['UTC']]);
  });
});

test('one that takes its time to start is waited for, however soon it has to answer afterwards', async () => {
  const slow = join(folder, 'slow.cjs');
  const real = resolve(__dirname, '../dist/engine/process.js');
  // It hears nothing before it has started, for longer than until it is first asked whether it does.
  writeFileSync(slow, `Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 5_000);\nrequire(${JSON.stringify(real)});\n`);
  const late = new Engine(results, slow, undefined, 1_000);
  await expect(late.do({ work: 'open', run: 'late', folder: join(folder, 'late') })).resolves.not.toThrow();
  await late.stop();
});
