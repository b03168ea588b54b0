import { createRequire } from 'node:module';
import { join } from 'node:path';
import pg from 'pg';
import type { Cluster } from '../scripts/setup/cluster';
import type * as Core from '../packages/core/src';
import type { Definition, DescribedText, RawGrammar, Step } from '../packages/core/src';
import { directHead, psql } from './by-hand';
import type { Client, Dataset } from './client';
import { HEAVY } from './criteria';
import type { Line } from './line';
import { pair } from './pair';

/** Texts of SQL: checked at a key, described, and with a step over them. */

const built = () => createRequire(import.meta.url)('../packages/core/dist') as typeof Core;

/** The grammar as core is tested with. */
interface Grammar {
  loadModule(): Promise<void>;
  readonly parseSync: RawGrammar['parse'];
  readonly scanSync: RawGrammar['scan'];
}

const TEXT = 'select hive_id, read_at, weight_kg, outside_c, battery_v, sensor, flagged, reading_no from coop.scale_readings';
const BY_HAND = `select * from (${TEXT}) as text where ${HEAVY}`;

/** A text of two hundred lines, as long ones are: common tables, joins, conditions; each try is another one. */
const longText = (at: number) =>
  `with ${Array.from(
    { length: 24 },
    (_each, part) => `part_${part} as (
  select h.id, h.picked_on, -- ${at}
    h.kilos * ${part}.5 as kilos,
    coalesce(h.grade, 'none') as grade
  from coop.harvests h
  join coop.apiaries a on a.code = h.apiary_code
  where h.kilos > :least and h.picked_on between :from and :until
    and h.floral_source in (:sources)
)`,
  ).join(',\n')}\nselect *\nfrom part_0\nunion all\nselect * from part_23\nwhere kilos = ${at}\norder by 1`;

export async function texts(client: Client, cluster: Cluster, password: string, folder: string): Promise<readonly Line[]> {
  const source = await client.source();
  const described = await pair(
    7,
    () => client.ask('POST', `/sources/${source}/texts/describe`, { text: BY_HAND, parameters: [] }),
    () => describedByDriver(cluster, password),
  );
  const dataset = await criteriaOver(client, source);
  const head = await pair(
    5,
    () => client.run(dataset, 'head'),
    () => directHead(cluster, password, `${BY_HAND} limit 1000`),
    () => client.quiet(),
  );
  const full = await pair(
    3,
    () => client.run(dataset, 'full'),
    () => psql(cluster, password, [`\\copy (${BY_HAND}) to '${join(folder, 'text.csv')}' csv`]),
    () => client.quiet(),
  );
  return [
    { what: 'checking a text of 200 lines at a key', cendra: await checking(), reference: 0, unit: 'ms', most: 16, rule: 'under 16 ms' },
    { what: 'describing a text', ...described, unit: 'ms', most: described.reference + 50, rule: 'the driver + 50 ms' },
    { what: 'first page, criteria over a text, 2 M rows', ...head, unit: 'ms', most: 1.5 * head.reference + 30, rule: '1.5 × + 30 ms' },
    { what: 'full run of criteria over a text, 2 M rows', ...full, unit: 'ms', most: 1.2 * full.reference, rule: '1.2 × psql \\copy' },
  ];
}

/** The columns of a statement, asked by the driver alone. */
async function describedByDriver(cluster: Cluster, password: string): Promise<void> {
  const client = new pg.Client({ host: '127.0.0.1', port: cluster.port, database: 'cooperative', user: 'cendra_read', password });
  await client.connect();
  await client.query(`${BY_HAND} limit 0`);
  await client.end();
}

/** In ms: the middle of many, each of another text. */
async function checking(): Promise<number> {
  const { checkText, parseWith } = built();
  const { loadModule, parseSync, scanSync } = createRequire(join(process.cwd(), 'packages/core/package.json'))('libpg-query') as Grammar;
  await loadModule();
  const parse = parseWith({ parse: parseSync, scan: scanSync });
  const times = Array.from({ length: 80 }, (_each, at) => {
    const text = longText(at);
    const began = performance.now();
    checkText(text, parse);
    return performance.now() - began;
  });
  return times.toSorted((a, b) => a - b)[40] ?? 0;
}

/** Criteria over a pasted text, all of whose columns are taken. */
async function criteriaOver(client: Client, source: string): Promise<Dataset> {
  const core = built();
  const made = await client.ask<Dataset>('POST', '/datasets', { source, text: TEXT });
  const definition = made.definition as unknown as Definition;
  const step = core.ofKind('sql', definition.steps[0]);
  if (!step) throw new Error('a dataset of a text begins with it');
  const answer = await client.ask<DescribedText>('POST', `/sources/${source}/texts/describe`, { text: TEXT, parameters: [] });
  let minted = 0;
  const taken = await client.edited(made, core.takeTextOver(definition, step, TEXT, answer, () => `text-${minted++}`).edits);
  const clause = { id: 'x', kind: 'expression', off: false, expression: { text: HEAVY, refs: [] } } as const;
  const criteria: Step = { id: 'c', kind: 'criteria', name: '', off: false, inputs: [step.id], head: 'every one', clauses: [clause] };
  return client.edited(taken, [core.addStepAfter(taken.definition as unknown as Definition, step.id, criteria)]);
}
