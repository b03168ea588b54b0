import type { AcrossPlace, Layout } from '@cendra/core';
import { LINE, LINE_KINDS } from '@cendra/core';
import type { DatasetBody, Person, ProblemBody } from './support/cendra';
import { Cendra, run } from './support/cendra';
import { withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, fieldOf } from './support/datasets';

/** A chart draws the groups of the proof and nothing else, with the figure it names; the database says the same. */

interface Proof {
  readonly key: string;
  readonly lines: number;
  readonly across?: readonly AcrossPlace[];
  readonly columns: readonly { readonly id: string }[];
}

let cendra: Cendra;
let analyst: Person;
let source: string;
let dataset: DatasetBody;
let result: string;

beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
  dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'picked_on', 'kilos', 'grade', 'floral_source']);
  result = (await run(analyst, dataset, 'full')).result?.id ?? '';
});
afterAll(() => cendra.stop());

const f = (name: string) => fieldOf(dataset.definition, name);
const by = (name: string, descending = false) => ({ field: f(name), descending, subtotal: true });

async function withProof(to: Partial<Layout>): Promise<DatasetBody> {
  const { proof } = dataset.definition;
  const wanted = { levels: [], rows: true, grandTotal: true, marks: [], ...to };
  const properties = ['levels', 'across', 'rows', 'chart'] as const;
  dataset = await edit(
    analyst,
    dataset,
    ...properties.map(
      (property) => ({ kind: 'set proof', property, from: proof[property], to: (wanted as Partial<Layout>)[property] }) as const,
    ),
  );
  return dataset;
}

const ask = () =>
  analyst.ask<Proof & ProblemBody>('POST', `/results/${result}/proofs/chart`, { dataset: dataset.id, revision: dataset.revision });

/** Lines as cells by column, all of them totals of the last level. */
async function drawn(): Promise<{ readonly proof: Proof; readonly lines: readonly Record<string, string | null>[] }> {
  const proof = (await ask()).body;
  const page = await analyst.get<(string | null)[][]>(`/results/${result}/proofs/${proof.key}/lines?offset=0&limit=500`);
  const lines = page.map((cells) => Object.fromEntries(proof.columns.map(({ id }, at) => [id, cells[at + 1] ?? null])));
  return { proof, lines };
}

const bySql = (text: string) =>
  withSuperuser('cooperative', async (client) => (await client.query<(string | null)[]>({ text, rowMode: 'array' })).rows);

test('groups of the first level, one figure each, without rows and totals of others', async () => {
  await withProof({
    levels: [by('grade'), by('picked_on')],
    across: { levels: [by('floral_source')], total: true },
    chart: { as: 'bars stacked', field: f('kilos'), aggregate: 'average' },
  });
  const { proof, lines } = await drawn();
  const apart = await bySql(
    `select grade, floral_source, round(avg(kilos), 6)::text from coop.harvests group by 1, 2 order by 1, 2 nulls last`,
  );
  const told = lines.flatMap((line) =>
    (proof.across ?? []).map(([flower], place) => [line.key_1 ?? null, flower?.value ?? null, line[`total_${place}`] ?? null]),
  );
  const rounded = (cell: string | null | undefined) => (cell === null || cell === undefined ? null : Number(cell).toFixed(4));
  expect(told.map(([grade, flower, average]) => [grade, flower, rounded(average)])).toEqual(
    apart.map(([grade, flower, average]) => [grade, flower, rounded(average)]),
  );
  expect(new Set(lines.map((line) => [line[LINE.kind], line[LINE.level]].join()))).toEqual(new Set([`${LINE_KINDS.indexOf('totals')},1`]));
});

test('two levels without columns per value are drawn both', async () => {
  await withProof({ levels: [by('grade'), by('floral_source', true)], chart: { as: 'lines', field: f('kilos'), aggregate: 'sum' } });
  const { lines } = await drawn();
  const totals = lines.filter((line) => line[LINE.kind] === String(LINE_KINDS.indexOf('totals')));
  expect(totals.map((line) => [line.key_1, line.key_2, line.total_0])).toEqual(
    await bySql(`select grade, floral_source, sum(kilos)::text from coop.harvests group by 1, 2 order by 1, 2 desc nulls last`),
  );
});

test('where nothing is drawn there is nothing to ask for, and a chart of a field that is gone is left out', async () => {
  await withProof({ levels: [by('grade')] });
  const none = await ask();
  expect([none.status, none.body.problems[0]?.code]).toEqual([422, 'chart-none']);
  await withProof({ levels: [by('grade')], chart: { as: 'points', field: f('grade'), aggregate: 'sum' } });
  expect((await ask()).body.problems[0]?.code).toBe('chart-none');
  await withProof({ levels: [], chart: { as: 'points', field: f('kilos'), aggregate: 'sum' } });
  expect((await ask()).body.problems[0]?.code).toBe('chart-none');
});
