import type { Person, RunBody } from '../support/cendra';
import { Cendra, rowsOf, run } from '../support/cendra';
import { unique, withSuperuser } from '../support/cluster';
import { datasetOf, demoSource } from '../support/datasets';

/** Texts of any length cost what is looked at of them, and what cannot be held is said. */

let cendra: Cendra;
let analyst: Person;
let source: string;
const tables: string[] = [];
beforeAll(async () => {
  cendra = await Cendra.start({ limits: { rowBytes: 3_000_000, pageBytes: 50_000 } });
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
});
afterAll(async () => {
  await withSuperuser('cooperative', (client) => client.query(`drop table ${tables.map((each) => `coop.${each}`).join(', ')}`));
  await cendra.stop();
});

async function tableOf(rows: string): Promise<string> {
  const table = unique('long');
  tables.push(table);
  await withSuperuser('cooperative', (client) =>
    client.query(
      `create table coop.${table} as ${rows}; alter table coop.${table} add primary key (id); grant select on coop.${table} to cendra_read`,
    ),
  );
  return table;
}

interface Cell {
  readonly text: string;
  readonly length: number;
}
const cellOf = (done: RunBody, column: number) =>
  analyst.get<Cell>(`/results/${done.result?.id}/cell?row=0&field=${encodeURIComponent(done.result?.columns[column]?.id ?? '')}`);

test('first rows have the beginning of long texts and their length, all rows have the whole', async () => {
  const long = "repeat('Linden höney, ', 2000)";
  const table = await tableOf(`select 1 id, ${long} note, json_build_object('told', ${long}) told, 'short' word`);
  const dataset = await datasetOf(analyst, source, table);
  const head = await run(analyst, dataset, 'head');
  expect(head.result).toMatchObject({ rows: '1', complete: false });
  const [first] = await rowsOf(analyst, head.result?.id ?? '');
  expect(first?.[2]).toMatchObject({ n: 28_000 });
  expect([first?.[4], (head.result?.columns[2] as { type?: object } | undefined)?.type]).toEqual(['short', { kind: 'json' }]);
  const begun = await cellOf(head, 1);
  expect([begun.text.length, begun.length]).toEqual([10_000, 28_000]);
  const full = await run(analyst, dataset, 'full');
  expect(full.result?.complete).toBe(true);
  const whole = await cellOf(full, 1);
  expect([whole.text, whole.length]).toEqual(['Linden höney, '.repeat(2000), 28_000]);
});

test('rows of which no text is long are complete', async () => {
  const dataset = await datasetOf(analyst, source, await tableOf("select id, 'short' word from generate_series(1, 3) id"));
  expect((await run(analyst, dataset, 'head')).result).toMatchObject({ rows: '3', complete: true });
});

test('a row that is longer than may be held ends the run, and first rows are there all the same', async () => {
  const dataset = await datasetOf(analyst, source, await tableOf("select 1 id, repeat('honey ', 1000000) note"));
  expect((await run(analyst, dataset, 'head')).state).toBe('done');
  const full = await run(analyst, dataset, 'full');
  expect([full.state, full.problems[0]?.code]).toEqual(['failed', 'row-too-long']);
});

test('a page has as many rows as go into its bytes, and the next one goes on behind them', async () => {
  const dataset = await datasetOf(
    analyst,
    source,
    await tableOf('select id, repeat(md5(id::text), 20) note from generate_series(1, 200) id'),
  );
  const { result } = await run(analyst, dataset, 'full');
  const seen: unknown[] = [];
  for (let pages = 0; seen.length < 200 && pages < 50; pages++) {
    const page = await rowsOf(analyst, result?.id ?? '', `offset=${seen.length}&limit=100`);
    expect(JSON.stringify(page).length).toBeLessThan(51_000);
    expect(page.length).toBeGreaterThan(0);
    seen.push(...page.map((row) => row[1]));
  }
  expect(seen).toEqual(Array.from({ length: 200 }, (_each, at) => String(at + 1)));
});
