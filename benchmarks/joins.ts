import { createRequire } from 'node:module';
import type * as Core from '../packages/core/src';
import type { Definition, ReadTable } from '../packages/core/src';
import type { Client, Dataset } from './client';
import type { Compared } from './criteria';

/** Joins through Cendra, and the same by hand as SQL. */

const built = () => createRequire(import.meta.url)('../packages/core/dist') as typeof Core;

/** A million rows and fifty thousand that meet by a number, most of them once. */
export const PAIR_OF_TABLES = `
  create table coop.million as select i::bigint as id, (i * 7919::bigint % 60000)::bigint as key, i % 97 as weight from generate_series(1, 1000000) i;
  create table coop.fifty as select i::bigint as key, 'B' || i as name from generate_series(1, 50000) i;
  grant select on coop.million, coop.fifty to cendra_read;
  analyze coop.million; analyze coop.fifty;`;
export const WITHOUT_THEM = 'drop table coop.million, coop.fifty';

interface Brought {
  readonly table: string;
  readonly pair: readonly [string, string];
  readonly taken: readonly string[];
}

let minted = 0;
const mint = () => `bench-${minted++}`;

/** A dataset of a table with others brought in, each by one pair of fields; of a pair left empty nothing meets yet. */
async function joined(client: Client, table: string, taken: readonly string[], brought: readonly Brought[]): Promise<Dataset> {
  const core = built();
  const source = await client.source();
  const described = (name: string) => client.ask<ReadTable>('GET', `/sources/${source}/tables/coop/${name}`);
  const begun = await client.ask<Dataset>('POST', '/datasets', { source, schema: 'coop', table });
  let definition = begun.definition as unknown as Definition;
  const edits: Core.Edit[] = [];
  const apply = (...some: readonly Core.Edit[]) => {
    edits.push(...some);
    definition = core.applyEdits(definition, some);
  };
  const [first] = definition.steps;
  if (first?.kind !== 'table') throw new Error('a dataset begins with its table');
  const ids = first.fields.filter((each) => taken.includes(each.column)).map((each) => each.id);
  apply({ kind: 'set step', step: first.id, property: 'taken', from: [], to: ids });
  for (const { table: other, pair, taken: wanted } of brought) {
    const partner = core.tableStep(mint, source, await described(other));
    const after = definition.result ?? first.id;
    const made = core.bringInEdits(mint, definition, after, { table: partner }, core.NOTHING_KNOWN);
    apply(...made.edits);
    const step = definition.steps.find((each) => each.id === made.step);
    if (step?.kind !== 'join') throw new Error('a join was made');
    const [left, right] = pair;
    const text = (written: string) => ({ text: written, refs: [] });
    if (left !== '') apply(core.addItem(step, 'pairs', core.comparedPair({ id: mint(), left: text(left), right: text(right) }), 0));
    const own = step.fields.filter((each) => wanted.includes(each.name)).map((each) => each.id);
    apply({ kind: 'set step', step: step.id, property: 'taken', from: [], to: own });
  }
  return client.edited(begun, edits);
}

/** All outcomes, numbers of partners and worst keys of a join, against one statement that gives the sums alone. */
export async function evidence(client: Client): Promise<Compared> {
  const dataset = await joined(client, 'million', ['id'], [{ table: 'fifty', pair: ['key', 'fifty_key'], taken: ['name'] }]);
  return {
    work: () => client.answer(dataset, { kind: 'evidence' }),
    sql: `with l as (select key k, count(*) n from coop.million group by 1), r as (select key k, count(*) n from coop.fifty group by 1)
      select sum(l.n), sum(l.n) filter (where r.n is not null), sum(l.n) filter (where r.n is null), sum(l.n) filter (where l.k is null),
        sum(r.n) filter (where l.n is null), sum(l.n * r.n), max(r.n) filter (where l.n is not null), max(l.n) filter (where r.n is not null)
      from l full join r on l.k = r.k`,
  };
}

/** How many values of proposed fields stand on both sides. */
export async function proposals(client: Client): Promise<Compared> {
  const dataset = await joined(client, 'million', ['id'], [{ table: 'fifty', pair: ['', ''], taken: [] }]);
  const definition = dataset.definition as unknown as Definition;
  const step = definition.steps.at(-1);
  const first = definition.steps[0];
  if (step?.kind !== 'join' || first?.kind !== 'table') throw new Error('a join was made');
  const left = first.fields.find((each) => each.column === 'key')?.id;
  const right = step.fields.find((each) => each.name === 'fifty_key')?.id;
  return {
    work: () => client.answer(dataset, { kind: 'shares', proposals: [[{ left, right }]] }),
    sql: `select count(l.key), count(r.key), count(*) filter (where l.key = r.key), sum(l.n * r.n)
      from (select key, count(*) n from coop.million group by 1) l full join (select key, count(*) n from coop.fifty group by 1) r on l.key = r.key`,
  };
}

/** Three tables brought to the big one. */
export async function threeJoins(client: Client): Promise<{ readonly dataset: Dataset; readonly sql: string }> {
  const dataset = await joined(
    client,
    'scale_readings',
    ['read_at', 'weight_kg', 'reading_no'],
    [
      { table: 'hives', pair: ['hive_id', 'id'], taken: ['kind'] },
      { table: 'apiaries', pair: ['apiary_code', 'code'], taken: ['name'] },
      { table: 'members', pair: ['member_id', 'members_id'], taken: ['last_name'] },
    ],
  );
  return {
    dataset,
    sql: `select s.read_at, s.weight_kg, s.reading_no, h.kind, a.name, m.last_name from coop.scale_readings s
      left join coop.hives h on h.id = s.hive_id left join coop.apiaries a on a.code = h.apiary_code left join coop.members m on m.id = a.member_id`,
  };
}
