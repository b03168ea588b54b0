import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { literal, MARKS, quoted } from './stored-text';

/**
 * Stored rows: one Parquet file, or a folder of parts in their order. A part is named by the number of its first row,
 * and ends with `m` where it carries marks.
 */
const PART = /^(\d{12})(m?)\.parquet$/;

/**
 * How stored rows are written. Against the first version of the format the files take a quarter of the room and are
 * read faster; dictionaries are given up early where they do not pay, for looking for them is a third of the writing.
 */
export const STORED_AS = 'format parquet, parquet_version v2, compression snappy, dictionary_size_limit 2000';

/** The name of a part whose first row has this number. */
export const partName = (first: number, marked: boolean) => `${String(first).padStart(12, '0')}${marked ? 'm' : ''}.parquet`;

/** Rows by their number: from the first on, before the last one. */
export interface RowRange {
  readonly from: number;
  readonly until: number;
}

interface Parts {
  /** What `read_parquet` reads. */
  readonly files: string;
  /** The number of each part's first row. */
  readonly firsts: readonly number[];
  /** Some parts have marks and others have none. */
  readonly differ: boolean;
  /** None of them has marks, while others of the same rows have. */
  readonly lackMarks: boolean;
}

function partsOf(path: string, only?: RowRange): Parts | undefined {
  if (path.endsWith('.parquet')) return undefined;
  const all = readdirSync(path)
    .flatMap((name) => {
      const [, first, mark] = PART.exec(name) ?? [];
      return first === undefined ? [] : [{ name, first: Number(first), marked: mark !== '' }];
    })
    .toSorted((a, b) => a.first - b.first);
  const within = all.filter((each, at) => !only || (each.first < only.until && (all[at + 1]?.first ?? Infinity) > only.from));
  // Beyond the last row there are none, but still columns.
  const parts = within.length > 0 ? within : all.slice(-1);
  const marked = parts.filter((each) => each.marked).length;
  return {
    files: `[${parts.map((each) => literal(join(path, each.name))).join(', ')}]`,
    firsts: parts.map((each) => each.first),
    differ: marked > 0 && marked < parts.length,
    lackMarks: marked === 0 && all.some((each) => each.marked),
  };
}

/** The rows, in their order, as something to select from. */
export function rowsIn(path: string): string {
  const parts = partsOf(path);
  return parts ? `read_parquet(${parts.files}${parts.differ ? ', union_by_name=true' : ''})` : `read_parquet(${literal(path)})`;
}

/** The same with the number of each row, counted from 0 over all parts, in front; all of them or those of a range. */
export function numberedRows(path: string, number: string, only?: RowRange): string {
  const parts = partsOf(path, only);
  const name = quoted(number);
  const rows = `* exclude (file_row_number)${parts?.lackMarks ? `, null::varchar as ${MARKS}` : ''}`;
  if (!parts || parts.firsts.length === 1) {
    const first = parts?.firsts[0] ?? 0;
    const files = parts?.files ?? literal(path);
    // Asked of the file's own number, rows outside the range are not read at all.
    const within = only ? ` where file_row_number >= ${only.from - first} and file_row_number < ${only.until - first}` : '';
    const numbered = first === 0 ? 'file_row_number' : `${first} + file_row_number`;
    return `(select ${numbered} as ${name}, ${rows} from read_parquet(${files}, file_row_number=true)${within})`;
  }
  const firsts = `[${parts.firsts.join(', ')}]::bigint[]`;
  const together = parts.differ ? ', union_by_name=true' : '';
  const within = only ? ` where ${name} >= ${only.from} and ${name} < ${only.until}` : '';
  return `(select * from (select (${firsts})[file_index::bigint + 1] + file_row_number as ${name}, ${rows} from read_parquet(${parts.files}, file_row_number=true${together}))${within})`;
}
