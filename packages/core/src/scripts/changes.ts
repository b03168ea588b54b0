/** A temp table as it stood at one moment. Cells are its source's texts. */
export interface TempState {
  readonly columns: readonly string[];
  /** Columns that tell its rows apart; none where nobody said so. */
  readonly key: readonly string[];
  readonly count: string;
  /** All of its rows, or the first ones where there are more than are compared. */
  readonly rows: readonly (readonly (string | null)[])[];
}

/** What became of a row, cell by cell: `old` has a member for each column that is other than it was. */
export interface ChangedRow {
  readonly row: readonly (string | null)[];
  readonly is: 'same' | 'new' | 'changed';
  readonly old?: Readonly<Record<string, string | null>>;
}

/** How a temp table differs from one moment to the next. */
export type TempChange =
  /** It was not there before. */
  | { readonly by: 'making'; readonly added: number }
  /** Row by row: each is found again by its key. */
  | {
      readonly by: 'key';
      readonly added: number;
      readonly gone: number;
      readonly changed: number;
      readonly rows: readonly ChangedRow[];
      readonly goneRows: readonly (readonly (string | null)[])[];
    }
  /** Nothing tells its rows apart: how many are there that were not, as a whole, and the other way round. */
  | { readonly by: 'rows'; readonly added: number; readonly gone: number; readonly because: 'no key' | 'key repeats' }
  /** It is too large to be compared. */
  | { readonly by: 'count'; readonly before: string; readonly after: string };

const isWhole = ({ count, rows }: TempState) => BigInt(count) === BigInt(rows.length);

/**
 * What changed in a temp table. With a key that tells its rows apart on both sides, row by row and cell by cell, in the
 * order of `after`; else as many rows as can be matched whole are the same. Columns are matched by their names.
 */
export function tempChange(before: TempState | undefined, after: TempState): TempChange {
  if (!before) return { by: 'making', added: Number(after.count) };
  if (!isWhole(before) || !isWhole(after)) return { by: 'count', before: before.count, after: after.count };
  const { key } = after;
  if (key.length === 0) return byRows(before, after, 'no key');
  const [old, now] = [keyed(before, key), keyed(after, key)];
  if (!old || !now) return byRows(before, after, 'key repeats');
  const rows = after.rows.map((row): ChangedRow => {
    const was = old.get(keyOf(after, key, row));
    if (!was) return { row, is: 'new' };
    const changes = after.columns.flatMap((column, at): readonly (readonly [string, string | null])[] => {
      const from = before.columns.indexOf(column);
      const value = from < 0 ? null : (was[from] ?? null);
      return value === (row[at] ?? null) ? [] : [[column, value]];
    });
    return changes.length === 0 ? { row, is: 'same' } : { row, is: 'changed', old: Object.fromEntries(changes) };
  });
  const goneRows = before.rows.filter((row) => !now.has(keyOf(before, key, row)));
  const count = (is: ChangedRow['is']) => rows.filter((each) => each.is === is).length;
  return { by: 'key', added: count('new'), gone: goneRows.length, changed: count('changed'), rows, goneRows };
}

/** Rows by their key; undefined where a key column is missing, two rows share a key, or one is null. */
function keyed(state: TempState, key: readonly string[]): ReadonlyMap<string, readonly (string | null)[]> | undefined {
  if (key.some((each) => !state.columns.includes(each))) return undefined;
  const rows = new Map<string, readonly (string | null)[]>();
  for (const row of state.rows) {
    const of = keyOf(state, key, row);
    if (rows.has(of) || key.some((each) => row[state.columns.indexOf(each)] === null)) return undefined;
    rows.set(of, row);
  }
  return rows;
}

const keyOf = ({ columns }: TempState, key: readonly string[], row: readonly (string | null)[]) =>
  JSON.stringify(key.map((each) => row[columns.indexOf(each)] ?? null));

function byRows(before: TempState, after: TempState, because: 'no key' | 'key repeats'): TempChange {
  const common = after.columns.filter((each) => before.columns.includes(each));
  const counts = new Map<string, number>();
  for (const row of before.rows) counts.set(keyOf(before, common, row), (counts.get(keyOf(before, common, row)) ?? 0) + 1);
  let added = 0;
  for (const row of after.rows) {
    const of = keyOf(after, common, row);
    const left = counts.get(of) ?? 0;
    if (left > 0) counts.set(of, left - 1);
    else added++;
  }
  return { by: 'rows', added, gone: [...counts.values()].reduce((sum, each) => sum + each, 0), because };
}
