import type { Client, QueryArrayResult } from 'pg';
import { Query } from 'pg';
import { alone } from './transaction';

export interface RanAlone {
  /** How many rows it gave or changed; null where it did neither. */
  readonly rows: string | null;
  readonly columns: readonly string[];
  readonly first: readonly (readonly (string | null)[])[];
}

/** So much is kept of a cell, and of all rows together. */
const CELL_CHARACTERS = 300;
const KEPT_CHARACTERS = 200_000;

/** Runs one statement; of the rows it gives the first ones are kept, the others pass by. */
export function runAlone(client: Client, text: string, keep: number): Promise<RanAlone> {
  return new Promise((resolve, reject) => {
    const first: (readonly (string | null)[])[] = [];
    let kept = 0;
    const query = new Query<(string | null)[]>(alone(text));
    // With somebody who listens to rows the driver keeps none.
    query.on('row', (row) => {
      if (first.length >= keep || kept >= KEPT_CHARACTERS) return;
      const cells = (row as unknown as readonly (string | null)[]).map(beginningOf);
      kept += cells.reduce((sum, each) => sum + (each?.length ?? 0) + 1, 0);
      first.push(cells);
    });
    query.on('error', reject);
    query.on('end', (result) => {
      const { rowCount, fields } = result as unknown as QueryArrayResult;
      resolve({ rows: rowCount === null ? null : String(rowCount), columns: fields.map(({ name }) => name), first });
    });
    client.query(query);
  });
}

/** A text of its own: a slice would keep all of the long one in memory. */
const beginningOf = (cell: string | null) =>
  cell === null || cell.length <= CELL_CHARACTERS ? cell : Buffer.from(cell.slice(0, CELL_CHARACTERS)).toString();
