import { createRequire } from 'node:module';
import type * as Core from '../packages/core/src';
import type { Definition, Step } from '../packages/core/src';
import type { Client, Dataset } from './client';
import { threeJoins } from './joins';

/** Summaries and unions over the big table through Cendra, and the same by hand as SQL. */

const built = () => createRequire(import.meta.url)('../packages/core/dist') as typeof Core;
let minted = 0;
const mint = () => `summed-${minted++}`;
const text = (written: string) => ({ text: written, refs: [] });

/** Three tables brought to the big one, and summed up to 60 groups. */
export async function joinedAndSummed(client: Client): Promise<{ readonly dataset: Dataset; readonly sql: string }> {
  const core = built();
  const { dataset } = await threeJoins(client);
  const definition = dataset.definition as unknown as Definition;
  const after = definition.result ?? '';
  const figure = (name: string, aggregate: 'sum' | 'average' | 'greatest' | 'rows', of: string) => ({
    id: mint(),
    name,
    aggregate,
    expression: text(of),
    among: text(''),
    order: text(''),
  });
  const step: Step = {
    ...core.summariseStep(mint, after),
    keys: [{ id: mint(), name: 'place', expression: text('mod(reading_no, 60)') }],
    values: [
      figure('weight', 'sum', 'weight_kg'),
      figure('average_weight', 'average', 'weight_kg'),
      figure('last_keeper', 'greatest', 'last_name'),
      figure('last_kind', 'greatest', 'kind'),
      figure('last_apiary', 'greatest', 'name'),
      figure('readings', 'rows', ''),
    ],
  };
  return {
    dataset: await client.edited(dataset, [core.addStepAfter(definition, after, step)]),
    sql: `select mod(s.reading_no, 60), sum(s.weight_kg)::numeric(38,2), round(sum(s.weight_kg) / nullif(count(s.weight_kg), 0), 6),
      max(m.last_name collate "C"), max(h.kind collate "C"), max(a.name collate "C"), count(*) from coop.scale_readings s
      left join coop.hives h on h.id = s.hive_id left join coop.apiaries a on a.code = h.apiary_code left join coop.members m on m.id = a.member_id
      group by 1`,
  };
}

const PARTS = [
  [1, 24],
  [25, 48],
  [49, 72],
  [73, 96],
  [97, 120],
] as const;

/** Five criteria over the big table on top of one another. */
export async function stackedCriteria(client: Client): Promise<{ readonly dataset: Dataset; readonly sql: string }> {
  const core = built();
  const source = await client.source();
  const begun = await client.ask<Dataset>('POST', '/datasets', { source, schema: 'coop', table: 'scale_readings' });
  let definition = begun.definition as unknown as Definition;
  const edits: Core.Edit[] = [];
  const apply = (edit: Core.Edit) => {
    edits.push(edit);
    definition = core.applyEdits(definition, [edit]);
  };
  const [table] = definition.steps;
  if (table?.kind !== 'table') throw new Error('a dataset begins with its table');
  const taken = table.fields
    .filter((each) => ['hive_id', 'read_at', 'weight_kg', 'reading_no'].includes(each.column))
    .map((each) => each.id);
  apply({ kind: 'set step', step: table.id, property: 'taken', from: [], to: taken });
  const ids = PARTS.map(([from, until]) => {
    const clause = { id: mint(), kind: 'expression', off: false, expression: text(`hive_id between ${from} and ${until}`) } as const;
    const step: Step = { id: mint(), kind: 'criteria', name: '', off: false, inputs: [table.id], head: 'every one', clauses: [clause] };
    apply({ kind: 'add step', step, at: core.placeAt(definition.steps, definition.steps.length), heirs: [] });
    return step.id;
  });
  const trail = core.checkTrail(definition);
  const arriving = ids.map((id) => core.checkedStep(trail, id) ?? core.NOTHING_ARRIVES);
  const union = core.unionStep(mint, ids, arriving);
  apply({
    kind: 'add step',
    step: union,
    at: core.placeAt(definition.steps, definition.steps.length),
    heirs: [],
    handedOver: { instead: table.id },
  });
  const selects = PARTS.map(
    ([from, until]) => `select hive_id, read_at, weight_kg, reading_no from coop.scale_readings where hive_id between ${from} and ${until}`,
  );
  return { dataset: await client.edited(begun, edits), sql: selects.join(' union all ') };
}
