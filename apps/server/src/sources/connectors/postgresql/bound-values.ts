import type { Client } from 'pg';
import type { BoundValue } from '@cendra/core';
import { SETTING_PREFIX } from '@cendra/core';

/** Values travel as settings of a transaction; only their names and types stand in the statement. */
export async function setValues(client: Client, values: readonly BoundValue[]): Promise<void> {
  if (values.length === 0) return;
  // One statement for all of them: a list typed into a clause has thousands.
  await client.query({
    text: 'select count(set_config(name, value, true)) from unnest($1::text[], $2::text[]) as v (name, value)',
    values: [
      values.map((_value, index) => `${SETTING_PREFIX}${index + 1}`),
      values.map(({ value }) => (typeof value === 'string' ? value : arrayLiteral(value))),
    ],
  });
}

/** A list as one PostgreSQL array literal; every item quoted. */
export function arrayLiteral(items: readonly string[]): string {
  return `{${items.map((item) => `"${item.replaceAll('\\', '\\\\').replaceAll('"', '\\"')}"`).join(',')}}`;
}
