import type { Client } from './client';

/** What the heavy runs keep of the readings. */
export const HEAVY = 'weight_kg >= 20';

/** One million rows, as conditions see them: six that each keep most, the last of which bounds the rows. */
const SIX = [
  'weight_kg >= 29',
  'weight_kg < 49',
  'battery_v > 3.2e0',
  "sensor <> 'S007'",
  'not flagged',
  'hive_id between 3 and 118',
] as const;
const BY_HAND = [
  'weight_kg >= 29',
  'weight_kg < 49',
  'battery_v > 3.2',
  "sensor <> 'S007'",
  'not flagged',
  'hive_id between 3 and 118',
] as const;

/** What is measured of criteria: the work through Cendra, and the same by hand as SQL. */
export interface Compared {
  readonly work: () => Promise<unknown>;
  readonly sql: string;
}

/** How many rows each of six conditions passes, against one count with all six in its `where`. */
export async function passCounts(client: Client): Promise<Compared> {
  const dataset = await client.readings(...SIX);
  return {
    work: () => client.answer(dataset, { kind: 'clauses' }),
    sql: `select count(*) from coop.scale_readings where ${BY_HAND.join(' and ')}`,
  };
}

/** Choices searched as one types, among more than a million distinct values of a field. */
export async function searched(client: Client): Promise<Compared> {
  const dataset = await client.readings('reading_no >= 0');
  const field = dataset.definition.steps[0]?.fields.find((each) => each.column === 'reading_no')?.id;
  return {
    work: () => client.answer(dataset, { kind: 'values', field, search: '1234' }),
    sql: `select reading_no, count(*) from coop.scale_readings where lower(reading_no::text) like '%1234%' group by 1 order by 2 desc, 1 limit 51`,
  };
}
