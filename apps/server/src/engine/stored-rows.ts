import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { literal, quoted } from './stored-text';

/**
 * Stored rows: one Parquet file, or a folder of parts in their order. A part is named by the number of its first row,
 * and ends with `m` where it carries marks.
 */
const PART = /^(\d{12})(m?)\.parquet$/;

/** The name of a part whose first row has this number. */
export const partName = (first: number, marked: boolean) => `${String(first).padStart(12, '0')}${marked ? 'm' : ''}.parquet`;

interface Parts {
  /** What `read_parquet` reads. */
  readonly files: string;
  /** The number of each part's first row. */
  readonly firsts: readonly number[];
  /** Some parts have a column that others have not. */
  readonly differ: boolean;
}

function partsOf(path: string): Parts | undefined {
  if (path.endsWith('.parquet')) return undefined;
  const parts = readdirSync(path)
    .flatMap((name) => {
      const [, first, mark] = PART.exec(name) ?? [];
      return first === undefined ? [] : [{ name, first: Number(first), marked: mark !== '' }];
    })
    .toSorted((a, b) => a.first - b.first);
  const marked = parts.filter((each) => each.marked).length;
  return {
    files: `[${parts.map((each) => literal(join(path, each.name))).join(', ')}]`,
    firsts: parts.map((each) => each.first),
    differ: marked > 0 && marked < parts.length,
  };
}

/** The rows, in their order, as something to select from. */
export function rowsIn(path: string): string {
  const parts = partsOf(path);
  return parts ? `read_parquet(${parts.files}${parts.differ ? ', union_by_name=true' : ''})` : `read_parquet(${literal(path)})`;
}

/** The same with the number of each row, counted from 0 over all parts, in front. */
export function numberedRows(path: string, number: string): string {
  const parts = partsOf(path);
  const name = quoted(number);
  if (!parts || parts.firsts.length === 1) {
    const files = parts?.files ?? literal(path);
    return `(select file_row_number as ${name}, * exclude (file_row_number) from read_parquet(${files}, file_row_number=true))`;
  }
  const first = `[${parts.firsts.join(', ')}]::bigint[]`;
  const together = parts.differ ? ', union_by_name=true' : '';
  return `(select (${first})[file_index::bigint + 1] + file_row_number as ${name}, * exclude (file_row_number) from read_parquet(${parts.files}, file_row_number=true${together}))`;
}
