import type { KnownTable } from '@cendra/core';
import { bindDefinition, catalogueOf, checkTrail, outputColumns, planRows, relationAfter, runnableTexts, shownDialect } from '@cendra/core';
import { DEMO_DATASETS } from '../src/demo/demo-datasets';
import { TEXT_DATASETS } from '../src/demo/text-datasets';
import type { DatasetBody, Person, RunBody } from './support/cendra';
import { Cendra, rowsOf, run } from './support/cendra';
import { demoSource } from './support/datasets';
import { datasetOfScript, datasetOfText } from './support/texts';

let cendra: Cendra;
let analyst: Person;
let source: string;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
});
afterAll(() => cendra.stop());

const titled = async (title: string): Promise<DatasetBody> => {
  const found = (await analyst.get<{ id: string; title: string }[]>('/datasets')).find((each) => each.title === title);
  if (!found) throw new Error(`there is no dataset ${title}`);
  return analyst.get<DatasetBody>(`/datasets/${found.id}`);
};

async function handedOver(dataset: DatasetBody, values: Record<string, readonly string[]>): Promise<RunBody> {
  const done: RunBody = await run(analyst, dataset, 'full', values, dataset.definition.result ?? undefined);
  expect(done).toMatchObject({ state: 'done' });
  return done;
}

/** Every row of a run, as texts; numbers by value, since a text's columns may come without a scale. */
async function allRows(done: RunBody): Promise<readonly string[]> {
  const rows: string[] = [];
  for (let offset = 0; ; offset += 500) {
    const page = await rowsOf(analyst, done.result?.id ?? '', `offset=${offset}&limit=500`);
    rows.push(...page.map((row) => JSON.stringify(row.slice(1).map(plainNumber))));
    if (page.length < 500) return rows.sort();
  }
}

const plainNumber = (value: unknown) => (typeof value === 'string' && /^-?\d+\.\d+$/.test(value) ? value.replace(/\.?0+$/, '') : value);

describe('the whole trail of every dataset of the demo, as one text', () => {
  const titles = [...DEMO_DATASETS, ...TEXT_DATASETS.filter((each) => !each.pasted)].map((each) => each.title);

  test.each(titles)('%s: pasted as a SQL step, or as a script, it gives the same rows', async (title) => {
    const dataset = await titled(title);
    const known = await analyst.get<KnownTable[]>(`/datasets/${dataset.id}/tables`);
    const trail = checkTrail(dataset.definition, catalogueOf(known));
    const step = dataset.definition.result ?? '';
    const own = await handedOver(dataset, {});
    const binding = bindDefinition(dataset.definition, own.values, BigInt(Date.now()) * 1000n);
    const dialects = () => shownDialect('postgresql');
    const plan = planRows(relationAfter(trail, step, binding), outputColumns(trail, step), undefined, dialects);
    const texts = runnableTexts(trail, step, plan, binding, dialects, () => 'Cooperative database');
    expect(texts).toHaveLength(1);
    const isScript = dataset.definition.steps.some((each) => each.kind === 'script');
    const pasted = await (isScript ? datasetOfScript : datasetOfText)(analyst, source, texts[0]?.text ?? '');
    const given = pasted.definition.parameters.map(({ id, name }) => {
      const meant = dataset.definition.parameters.find((each) => [each.name, `${each.name}_from`, `${each.name}_until`].includes(name));
      const used = binding.used[meant?.id ?? ''] ?? [];
      return [id, meant?.takes !== 'range' ? used : name.endsWith('_from') ? used.slice(0, 1) : used.slice(1)] as const;
    });
    const rows = await allRows(own);
    expect(rows.length > 0).toBe(title !== 'Harvests that leave nothing');
    expect(await allRows(await handedOver(pasted, Object.fromEntries(given)))).toEqual(rows);
  });
});
