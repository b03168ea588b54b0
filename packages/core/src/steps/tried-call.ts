import type { Problem } from '../problem';
import type { CallResult, ScriptPart } from '../sql';
import type { RoutineEntry } from './catalogue';
import type { GivenArgument } from './procedure';
import { procedureStep } from './procedure';
import { CALLED, callOf } from './procedure-call';
import { argumentProblems } from './procedure-problems';

/** What an argument is given where a routine is tried: typed values only. */
export type TriedArgument = Exclude<GivenArgument, { readonly by: 'parameter' }>;

/** A call with typed values that is made once to be looked at, or what is wrong with them; arguments nothing is said of have their default, or null. */
export function triedCall(
  routine: RoutineEntry,
  columns: string | undefined,
  given: readonly TriedArgument[],
): { readonly problems: readonly Problem[] } | { readonly part: ScriptPart; readonly problems: readonly [] } {
  const step = procedureStep(() => '', '', routine);
  const typed = {
    ...step,
    arguments: step.arguments.map((each, at) => ({ ...each, given: given[at] ?? each.given })),
    ...(columns === undefined ? {} : { columns }),
  };
  const problems = argumentProblems(typed, []).map(({ place: { step: _step, ...place }, ...each }) => ({ ...each, place }));
  if (problems.length > 0) return { problems };
  const parts = callOf(typed, [], { bound: new Map() }).map((part) => ({ part, at: 0 }));
  const result: CallResult = { of: 'rows' };
  return {
    part: { number: 1, from: 0, to: 0, parts, call: { signature: routine.signature, result, into: CALLED, given: [] } },
    problems: [],
  };
}
