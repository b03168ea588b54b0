import type { Bound } from '../parameters';
import type { Column, Relation } from '../sql';

/** Rows to take, and which of their columns. */
export interface ChosenRows {
  readonly relation: Relation;
  readonly columns: readonly Column[];
  readonly limit?: number;
}

/** Rows a question needs before it can go on; values of lists too long to be written into a condition travel bound. */
export interface WantedRows extends ChosenRows {
  readonly bound?: ReadonlyMap<string, Bound>;
  /** How many rows the source expects is all that is wanted: one row with that number, or none where it cannot say. */
  readonly expected?: true;
}

/** A row as an engine gives it: one text in wire form per column, or null. */
export type WireRow = readonly (string | null)[];

/**
 * A question about a dataset's rows. It says one after the other which rows it needs, is given them, and ends with
 * its answer, which is plain JSON. It runs nothing itself, so it can be asked of any engine, and stopped between two.
 */
export type Questioning<A> = Generator<WantedRows, A, readonly WireRow[]>;
