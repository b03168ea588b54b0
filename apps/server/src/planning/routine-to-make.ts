import type { Problem, ScriptAct, ScriptStatement, ScriptToKeep, SessionCall, TypesMet } from '@cendra/core';
import { asTextStep, bindDefinition, callOfRoutine, compileScript, partsOfStep, refuse, routineOfStep } from '@cendra/core';
import { dialectsOf } from './dialects';
import { trailOf } from './subject';
import type { Given } from './work';

export interface RoutineWanted extends Given {
  readonly step: string;
  readonly schema: string;
  readonly name: string;
  readonly values: readonly Readonly<Record<string, readonly string[]>>[];
  /** The source's types of what its parameters meet. */
  readonly met: TypesMet;
  /** Of a script, what each of its statements does. */
  readonly acts?: readonly ScriptAct[];
}

type Call = ScriptStatement & { readonly call: SessionCall };

/** What makes a function, of which types its arguments are, and what is run to compare it with its text. */
export interface RoutineToMake {
  readonly statement: string;
  readonly types: readonly string[];
  readonly runs: readonly { readonly text: readonly ScriptStatement[]; readonly call: Call }[];
  readonly problems: readonly [];
}

interface NotMade {
  readonly problems: readonly Problem[];
}

/** A text as a function of its source, and for each of some values the statements that give the rows of both. */
export function routineToMake({
  subject,
  binding: { now },
  kinds,
  step,
  schema,
  name,
  values,
  acts,
  met,
}: RoutineWanted): RoutineToMake | NotMade {
  const { definition } = trailOf(subject);
  const found = definition.steps.find((each) => each.id === step);
  const known = asTextStep(found);
  const text = known && { ...known, met };
  if (!text) return refuse('step-gone', 'This text is not in the dataset.', { step });
  const { parameters } = definition;
  const made = routineOfStep(text, parameters, { schema, name }, acts && scriptToKeep(acts));
  if (!('routine' in made)) return made;
  const bindings = values.map((each) => bindDefinition(definition, each, now));
  const problems = bindings.flatMap((each) => each.problems);
  if (problems.length > 0) return { problems };
  const dialect = dialectsOf(kinds)({ kind: 'source', source: text.source });
  const { statement, arguments: taken } = made.routine;
  const runs = bindings.map((binding) => ({
    text: compileScript(step, partsOfStep(text, parameters, binding), dialect, binding),
    call: compileScript('', [callOfRoutine({ schema, name }, taken, parameters, binding)], dialect, binding)[0] as Call,
  }));
  return { statement, types: taken.map((each) => each.sourceType), runs, problems: [] };
}

/** Statements in the middle that only read say nothing a function needs; temp tables of a call before this one make room. */
const scriptToKeep = (acts: readonly ScriptAct[]): ScriptToKeep => ({
  reading: new Set(acts.flatMap(({ does }, at) => (does === 'reads' || does === 'nothing' ? [at + 1] : []))),
  made: [...new Set(acts.flatMap((act) => (act.does === 'fills' ? [act.table] : act.does === 'makes' ? act.tables : [])))],
});
