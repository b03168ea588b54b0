import type { Binding, Parameter } from '../parameters';
import { parameterType } from '../parameters';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { CallResult, ScriptPart } from '../sql';
import type { KeptArgument, KeptRoutine, RoutineName, ScriptToKeep } from '../statements';
import { asRoutine, statementsIn } from '../statements';
import type { TextValue } from '../statements';
import { writeValue } from '../values';
import { CALLED, callText } from './procedure-call';
import type { ScriptStep } from './script';
import { scriptParts } from './script';
import type { SqlStep } from './sql';
import { parametersNamed, tokensIn } from './text-step';

/** A text or script of a dataset as a function of its source, and the two side by side. */

type TextStep = SqlStep | ScriptStep;

/** The statement that makes the function of a step, or why it cannot be one. */
export function routineOfStep(
  step: TextStep,
  parameters: readonly Parameter[],
  name: RoutineName,
  script?: ScriptToKeep,
): { readonly routine: KeptRoutine; readonly problems: readonly [] } | { readonly problems: readonly Problem[] } {
  const isPrivate = parametersNamed(step.sql, parameters).find((each) => each.isPrivate);
  if (isPrivate)
    return {
      problems: [
        problem(
          'parameter-private',
          `:${isPrivate.name} is private, and a function would be anybody’s.`,
          { step: step.id },
          'a parameter that is not',
        ),
      ],
    };
  if (step.inputs.length > 0)
    return {
      problems: [
        problem(
          'script-goes-on',
          'It goes on in the session of another script, and a function begins by itself.',
          { step: step.id },
          'both scripts put together',
        ),
      ],
    };
  return asRoutine({ text: step.sql.text, ...readOf(step, parameters), met: step.met, fields: step.fields }, name, script);
}

/** The statements of a step's own text with some values, the last of which gives its rows. */
export const partsOfStep = (
  step: TextStep,
  parameters: readonly Parameter[],
  binding: Pick<Binding, 'bound' | 'blanks'>,
): readonly ScriptPart[] => scriptParts(step, readOf(step, parameters), binding);

/** The call of the function with the same values; what is off for a blank parameter is left to its default. */
export function callOfRoutine(
  { schema, name }: RoutineName,
  taken: readonly KeptArgument[],
  parameters: readonly Parameter[],
  binding: Pick<Binding, 'bound'>,
): ScriptPart {
  const parts = callText(
    { schema, routine: name },
    taken.map((each) => ({ name: each.name, value: valueOf(each, parameters, binding) })),
  );
  const result: CallResult = { of: 'rows' };
  const call = { signature: '', result, into: CALLED, given: [] };
  return { number: 1, from: 0, to: 0, parts: parts.map((part) => ({ part, at: 0 })), call };
}

function valueOf(
  { parameter: id, sourceType: as, end, optional }: KeptArgument,
  parameters: readonly Parameter[],
  { bound }: Pick<Binding, 'bound'>,
): TextValue | undefined {
  const parameter = parameters.find((each) => each.id === id);
  const given = bound.get(id);
  if (!parameter || !given) return optional ? undefined : { parameter: id, as, value: null };
  const written = (value: (typeof given & { takes: 'one' })['value']) =>
    value === null ? null : writeValue(parameterType(parameter), value);
  if (given.takes === 'range')
    return { parameter: id, as, value: written(end === 'until' ? given.until : given.from), ...(end ? { end } : {}) };
  const several = as.endsWith('[]');
  const values = given.takes === 'several' ? given.values : [given.value];
  const list = values.flatMap((each) => written(each) ?? []);
  return { parameter: id, as, value: several ? list : (list[0] ?? null) };
}

const readOf = (step: TextStep, parameters: readonly Parameter[]) => ({
  statements: statementsIn(tokensIn(step.sql)),
  parameters: parametersNamed(step.sql, parameters),
});
