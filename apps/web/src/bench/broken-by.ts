import type { Edit, Problem } from '@cendra/core';
import { applyEdits, checkTrail, ProblemError } from '@cendra/core';
import type { Bench } from './use-bench';

const key = ({ code, message, place }: Problem) => `${code} ${message} ${place.step ?? ''}`;

/** What would be wrong after some edits and is not now, each with the step it is in. */
export function brokenBy({ trail, catalogue }: Bench, edits: readonly Edit[]): readonly string[] {
  const known = new Set(trail.problems.map(key));
  try {
    const after = checkTrail(applyEdits(trail.definition, edits), catalogue);
    return after.problems
      .filter((each) => each.severity === 'error' && !known.has(key(each)))
      .slice(0, 6)
      .map((each) => `${after.steps.find(({ step }) => step.id === each.place.step)?.title ?? 'The dataset'}: ${each.message}`);
  } catch (error) {
    return error instanceof ProblemError ? error.problems.map((each) => each.message) : [];
  }
}
