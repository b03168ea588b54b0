import { commonType } from '../expressions';
import type { FieldType } from '../fields';
import { withArticle } from '../fields';
import type { Parameter } from '../parameters';
import { parameterType } from '../parameters';
import type { Place, Problem } from '../problem';
import { problem } from '../problem';
import { readValue } from '../values';
import type { Catalogue, RoutineArgument } from './catalogue';
import type { BoundArgument, ProcedureStep } from './procedure';

/** What is other in the source than it was when the step was made. */
export function changedProblems(step: ProcedureStep, catalogue: Catalogue): readonly Problem[] {
  const place = { step: step.id };
  const now = catalogue({ kind: 'routine', source: step.source, signature: step.signature });
  if (now === undefined) return [];
  if (now === 'gone')
    return [
      problem(
        'routine-gone',
        `The source has no ${step.signature} that can be called.`,
        place,
        'the function it was made with, or another one',
      ),
    ];
  const changed = [
    ...argumentChanges(step.arguments, now.arguments),
    ...(now.gives === step.gives ? [] : [`it gave ${step.gives} and now gives ${now.gives}`]),
  ];
  if (changed.length > 0)
    return [problem('routine-changed', `${step.routine} has changed: ${changed.join('; ')}.`, place, 'it to be accepted as it is now')];
  if (now.body === step.body) return [];
  const text = problem(
    'routine-text-changed',
    `${step.routine} is written otherwise now; what it takes and gives is the same.`,
    place,
    'a look at its text',
  );
  return [{ ...text, severity: 'warning' }];
}

function argumentChanges(before: readonly RoutineArgument[], now: readonly RoutineArgument[]): readonly string[] {
  const nameOf = ({ name }: RoutineArgument, at: number) => name || `argument ${at + 1}`;
  return now.flatMap((each, at) => {
    const old = before[at];
    if (!old) return [`${nameOf(each, at)} is new`];
    if (old.name !== each.name) return [`${nameOf(old, at)} is called ${nameOf(each, at)}`];
    return old.startsAs === each.startsAs
      ? []
      : [`the default of ${nameOf(each, at)} was ${old.startsAs ?? 'none'} and is ${each.startsAs ?? 'none'}`];
  });
}

export function argumentProblems(step: ProcedureStep, parameters: readonly Parameter[]): readonly Problem[] {
  return step.arguments.flatMap((argument, at): readonly Problem[] => {
    const place = { step: step.id, item: `${at}` };
    const name = argument.name || `argument ${at + 1}`;
    const { given } = argument;
    if (given.by === 'value') return valueProblems(argument, name, place);
    if (given.by !== 'parameter') return [];
    const parameter = parameters.find((each) => each.id === given.parameter);
    if (!parameter)
      return [
        problem('parameter-unknown', `The parameter ${name} was given is not there any more.`, place, 'a parameter, a value or null'),
      ];
    const own = { ...place, parameter: parameter.id };
    if (parameter.takes === 'range' || (parameter.takes === 'several' && !argument.several && argument.type.kind !== 'text'))
      return [
        problem(
          'argument-takes',
          `:${parameter.name} takes ${parameter.takes === 'range' ? 'a range' : 'several values'}, and ${name} one ${argument.sourceType}.`,
          own,
          'a parameter that takes one value',
        ),
      ];
    if (fits(parameterType(parameter), argument)) return [];
    return [
      problem(
        'argument-type',
        `:${parameter.name} is ${withArticle(parameter.type)}, and ${name} takes ${argument.sourceType}.`,
        own,
        'a parameter of that type',
      ),
    ];
  });
}

function valueProblems({ given, type, several, sourceType }: BoundArgument, name: string, place: Place): readonly Problem[] {
  if (given.by !== 'value' || type.kind === 'text') return [];
  const typed = several ? given.value.split(',') : [given.value];
  const wrong = typed.find((each) => !readValue(type, each.trim()).ok);
  if (wrong === undefined) return [];
  return [problem('value-wrong-type', `“${wrong}” is no value for ${name}.`, place, withArticle(sourceType))];
}

/** A text takes any value as it is written. */
const fits = (type: FieldType, { type: wanted }: BoundArgument) => wanted.kind === 'text' || commonType(type, wanted) !== undefined;
