import { createRequire } from 'node:module';
import { join } from 'node:path';
import type { Cluster } from '../scripts/setup/cluster';
import { asOwner } from '../scripts/setup/databases';
import type * as Core from '../packages/core/src';
import type { Definition, DescribedText, Edit, Problem, SheetLine } from '../packages/core/src';
import { psql } from './by-hand';
import type { Client, Dataset } from './client';
import type { Line } from './line';
import { pair } from './pair';

/** Procedures, scripts and line sheets over the big table, and the same by psql. */

const built = () => createRequire(import.meta.url)('../packages/core/dist') as typeof Core;
let minted = 0;
const mint = () => `routine-${minted++}`;
const text = (written: string) => ({ text: written, refs: [] });

const FUNCTION = `create function coop.readings_above(above numeric) returns table (hive_id int, reading_no bigint, weight_kg numeric)
  stable language sql as 'select hive_id, reading_no, weight_kg from coop.scale_readings where weight_kg > above'`;
const CALL = "select hive_id, reading_no, weight_kg from coop.readings_above('40')";

/** Twenty statements: a temp table, eighteen fills of which each reads the big table, and what stands there then. */
const FILLS = Array.from(
  { length: 18 },
  (_each, at) =>
    `insert into figures select ${at + 1}, count(*), sum(weight_kg) from coop.scale_readings where hive_id between ${at * 6 + 1} and ${at * 6 + 6}`,
);
const SCRIPT = [
  'create temp table figures (place int, readings bigint, weight numeric)',
  ...FILLS,
  'select place, readings, weight from figures order by place',
];

const LINES = 40;
const hiveLine = (at: number) => `hive_id between ${at * 3 + 1} and ${at * 3 + 3}`;
/** What one would write without a line sheet. */
const SHEET_SCRIPT = [
  'create temp table sheet (line int, wording text, amount numeric)',
  ...Array.from(
    { length: LINES },
    (_each, at) => `insert into sheet select ${at + 1}, 'line ${at + 1}', sum(weight_kg) from coop.scale_readings where ${hiveLine(at)}`,
  ),
  'select line, wording, amount from sheet order by line',
];

export async function routines(client: Client, cluster: Cluster, password: string, folder: string): Promise<readonly Line[]> {
  await asOwner(cluster, 'cooperative', (owner) => owner.query(FUNCTION));
  const byPsql = (statements: readonly string[]) => {
    const last = statements.at(-1) ?? '';
    return psql(cluster, password, [...statements.slice(0, -1), `\\copy (${last}) to '${join(folder, 'routine.csv')}' csv`]);
  };
  const compared = async (dataset: Dataset, statements: readonly string[]) =>
    pair(
      8,
      () => client.run(dataset, 'full'),
      () => byPsql(statements),
      () => client.quiet(),
    );
  const procedure = await compared(await called(client), [CALL]);
  const script = await compared(await scripted(client), SCRIPT);
  const sheet = await compared(await sheeted(client), SHEET_SCRIPT);
  return [
    {
      what: 'a function of the source over 2 M rows',
      ...procedure,
      unit: 'ms',
      most: 1.2 * procedure.reference,
      rule: '1.2 × psql \\copy',
    },
    { what: 'a script of 20 statements over 2 M rows', ...script, unit: 'ms', most: 1.2 * script.reference, rule: '1.2 × psql' },
    { what: 'a line sheet of 40 lines over 2 M rows', ...sheet, unit: 'ms', most: sheet.reference, rule: '1.0 × its script by psql' },
  ];
}

async function called(client: Client): Promise<Dataset> {
  const core = built();
  const signature = await signatureOf(client, 'readings_above');
  const made = await client.ask<Dataset>('POST', '/datasets', { source: await client.source(), calls: { signature } });
  const definition = made.definition as unknown as Definition;
  const step = core.ofKind('procedure', definition.steps[0]);
  if (!step) throw new Error('a dataset of a routine begins with its call');
  const edits: readonly Edit[] = [
    { kind: 'set step', step: step.id, property: 'taken', from: step.taken, to: step.fields.map((each) => each.id) },
    ...core.giveArgument(definition, step, 0, { by: 'value', value: '40' }),
  ];
  return client.edited(made, edits);
}

async function signatureOf(client: Client, name: string): Promise<string> {
  const source = await client.source();
  const { routines: found } = await client.ask<{ routines: readonly { signature: string }[] }>(
    'GET',
    `/sources/${source}/routines?search=${name}`,
  );
  return found[0]?.signature ?? '';
}

async function scripted(client: Client): Promise<Dataset> {
  const core = built();
  const source = await client.source();
  const written = SCRIPT.join(';\n');
  const made = await client.ask<Dataset>('POST', '/datasets', { source, text: written, script: true });
  const answer = await client.ask<DescribedText & { readonly problems: readonly Problem[] }>('POST', `/sources/${source}/texts/describe`, {
    text: written,
    parameters: [],
    script: true,
  });
  const definition = made.definition as unknown as Definition;
  const step = core.ofKind('script', definition.steps[0]);
  if (!step) throw new Error('a dataset of a script begins with it');
  return client.edited(made, core.takeTextOver(definition, step, written, answer, mint).edits);
}

async function sheeted(client: Client): Promise<Dataset> {
  const core = built();
  const begun = await client.readings('hive_id > 0');
  const definition = begun.definition as unknown as Definition;
  const after = definition.result ?? '';
  const line = (at: number): SheetLine => ({
    id: mint(),
    place: String(at + 1),
    wording: `line ${at + 1}`,
    level: 0,
    kind: 'line',
    format: '',
    figure: { from: 'rows', slot: 0, aggregate: 'sum', expression: text('weight_kg'), among: text(hiveLine(at)) },
  });
  const step = { ...core.lineSheetStep(mint, after), lines: Array.from({ length: LINES }, (_each, at) => line(at)) };
  return client.edited(begun, [core.addStepAfter(definition, after, step)]);
}
