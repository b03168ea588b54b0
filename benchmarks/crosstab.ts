import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import type { Client, Dataset } from './client';
import { pair } from './pair';

/** A million rows as 60 groups by 24 columns, with totals both ways, and the same made by hand of the same stored rows. */

const COLUMNS = 24;
const FIELDS = [
  { name: 'band', expression: 'mod(hive_id, 60)' },
  { name: 'hour', expression: 'extract(hour from read_at)' },
];

export async function crosstab(client: Client, folder: string): Promise<{ readonly cendra: number; readonly reference: number }> {
  const dataset = await banded(client);
  const result = await client.run(dataset, 'full');
  await client.quiet();
  const weight = dataset.definition.steps[0]?.fields.find((each) => each.column === 'weight_kg')?.id ?? '';
  const stored = join(folder, 'server', 'results', result, 'rows', '*.parquet');
  // Each try is another order of the same groups and columns, for a proof is made once and remembered.
  const orders = [0, 1, 2, 3, 4].map((bits) => [(bits & 1) === 1, (bits & 2) === 2, bits > 3] as const);
  let current: Dataset = dataset;
  let before: Readonly<Record<string, unknown>> = {};
  const prepare = async () => {
    const [down, beside, totalsFirst] = orders.pop() ?? [false, false, false];
    const next = {
      levels: [{ field: 'band', descending: down, subtotal: true }],
      across: {
        levels: [{ field: 'hour', descending: beside, subtotal: false }],
        total: true,
        ...(totalsFirst ? { totalsFirst } : {}),
      },
      totals: [{ field: weight, aggregate: 'sum' }],
    };
    const edits = Object.entries(next).map(([property, to]) => ({
      kind: 'set proof',
      property,
      from: before[property] ?? (property === 'levels' ? [] : undefined),
      to,
    }));
    before = next;
    current = await client.edited(current, edits);
  };
  const connection = await (await DuckDBInstance.create(':memory:', { threads: '2' })).connect();
  await prepare();
  const both = await pair(
    4,
    () => client.proof(result, current),
    () => connection.runAndReadAll(byHand(stored, weight)),
    prepare,
  );
  connection.closeSync();
  return both;
}

/** A proof of 60 groups by as many columns as there may be. */
export async function widest(client: Client): Promise<Dataset> {
  const dataset = await banded(client, [{ name: 'part', expression: 'mod(reading_no, 500)' }]);
  const weight = dataset.definition.steps[0]?.fields.find((each) => each.column === 'weight_kg')?.id ?? '';
  const set = (property: string, from: unknown, to: unknown) => ({ kind: 'set proof', property, from, to });
  return client.edited(dataset, [
    set('levels', [], [{ field: 'band', descending: false, subtotal: true }]),
    set('across', undefined, { levels: [{ field: 'part', descending: false, subtotal: false }], total: true }),
    set('totals', undefined, [{ field: weight, aggregate: 'sum' }]),
  ]);
}

/** One statement: a sum per column, one over all of them, and a line for everything. */
function byHand(stored: string, weight: string): string {
  const columns = Array.from({ length: COLUMNS }, (_each, hour) => `sum("${weight}") filter (where "hour" = ${hour}) as h${hour}`);
  return `select "band", count(*), sum("${weight}"), ${columns.join(', ')} from read_parquet('${stored}') group by rollup ("band") order by "band" nulls last`;
}

async function banded(client: Client, more: typeof FIELDS = []): Promise<Dataset> {
  const begun = await client.readings('reading_no < 1000000');
  const after = begun.definition.steps.at(-1)?.id ?? '';
  const fields = [...FIELDS, ...more].map(({ name, expression }) => ({ id: name, name, expression: { text: expression, refs: [] } }));
  const step = { id: 'bands', kind: 'calculate', name: '', off: false, inputs: [after], fields };
  return client.edited(begun, [{ kind: 'add step', step, at: { after, before: null }, heirs: [], handedOver: { instead: after } }]);
}
