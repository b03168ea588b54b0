import type { Client, QueryArrayResult } from 'pg';
import { Query } from 'pg';
import { alone } from './transaction';

export interface RanAlone {
  /** How many rows it gave or changed; null where it did neither. */
  readonly rows: string | null;
  readonly columns: readonly string[];
  readonly first: readonly (readonly (string | null)[])[];
}

/** Runs one statement; of the rows it gives the first ones are kept, the others pass by. */
export function runAlone(client: Client, text: string, keep: number): Promise<RanAlone> {
  return new Promise((resolve, reject) => {
    const first: (readonly (string | null)[])[] = [];
    const query = new Query<(string | null)[]>(alone(text));
    // With somebody who listens to rows the driver keeps none.
    query.on('row', (row) => {
      if (first.length < keep) first.push(row as unknown as readonly (string | null)[]);
    });
    query.on('error', reject);
    query.on('end', (result) => {
      const { rowCount, fields } = result as unknown as QueryArrayResult;
      resolve({ rows: rowCount === null ? null : String(rowCount), columns: fields.map(({ name }) => name), first });
    });
    client.query(query);
  });
}
