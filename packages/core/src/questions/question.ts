import type { Binding } from '../parameters';
import type { Questioning, WantedRows, WireRow } from '../steps';
import type { CheckedTrail } from '../trail';

/** What a question is asked with. */
export interface QuestionContext {
  readonly trail: CheckedTrail;
  readonly binding: Binding;
  /** Datasets whose rows choices come from, by id. */
  readonly others: ReadonlyMap<string, Omit<QuestionContext, 'others'>>;
}

/** Carries a question out with a given way to get rows. */
export async function answered<A>(question: Questioning<A>, rowsOf: (wanted: WantedRows) => Promise<readonly WireRow[]>): Promise<A> {
  let step = question.next();
  while (!step.done) step = question.next(await rowsOf(step.value));
  return step.value;
}
