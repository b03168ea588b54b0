import type { CheckedTrail } from '../trail';
import type { Binding, Bound } from '../parameters';
import type { Asked } from '../planning';
import type { Catalogue } from '../steps';

/** Rows a question needs before it can go on; values of lists too long to be written into a condition travel bound. */
export interface WantedRows extends Asked {
  readonly bound?: ReadonlyMap<string, Bound>;
}

/** A row as an engine gives it: one text in wire form per column, or null. */
export type WireRow = readonly (string | null)[];

/**
 * A question about a dataset's rows. It says one after the other which rows it needs, is given them, and ends with
 * its answer, which is plain JSON. It runs nothing itself, so it can be asked of any engine, and stopped between two.
 */
export type Questioning<A> = Generator<WantedRows, A, readonly WireRow[]>;

/** What a question is asked with. */
export interface QuestionContext {
  readonly trail: CheckedTrail;
  readonly binding: Binding;
  readonly catalogue: Catalogue;
  /** Datasets whose rows choices come from, by id. */
  readonly others: ReadonlyMap<string, Omit<QuestionContext, 'others'>>;
}

/** Carries a question out with a given way to get rows. */
export async function answered<A>(question: Questioning<A>, rowsOf: (wanted: WantedRows) => Promise<readonly WireRow[]>): Promise<A> {
  let step = question.next();
  while (!step.done) step = question.next(await rowsOf(step.value));
  return step.value;
}
