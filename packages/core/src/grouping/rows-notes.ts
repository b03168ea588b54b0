import { grouped } from '../values';

/** What is known of stored rows. */
interface KnownRows {
  readonly rows: string;
  readonly complete: boolean;
  /** Why rows are missing, where a limit was reached. */
  readonly cut: string | null;
  /** How many values of each field fit no type. */
  readonly misfits: Readonly<Record<string, number>>;
}

/** What a reader has to know of rows before trusting a figure: that they are all, or what is missing. */
export function rowsNotes({ rows, complete, cut, misfits }: KnownRows): readonly string[] {
  const unfit = Object.values(misfits).reduce((sum, each) => sum + each, 0);
  return [
    complete
      ? `${grouped(rows)} rows, complete`
      : cut === null
        ? `the first ${grouped(rows)} rows only`
        : `cut off after ${grouped(rows)} rows: a limit was reached, totals are of these`,
    ...(unfit > 0 ? [`${grouped(unfit)} values fit no type, are marked with ! and are not totalled`] : []),
  ];
}
