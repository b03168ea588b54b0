import type { Binding, Parameter } from '../parameters';
import { parameterType } from '../parameters';
import type { TextPart, TextValue } from '../statements';
import type { Value } from '../values';
import { writeValue } from '../values';
import type { BoundArgument, ProcedureStep } from './procedure';

const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;

/**
 * The call as a text: arguments by name where they have one, else by place. A default is left out, and so are those behind
 * it that have no name. No value is ever written into it.
 */
export function callOf(step: ProcedureStep, parameters: readonly Parameter[], binding: Pick<Binding, 'bound'>): readonly TextPart[] {
  const parts: TextPart[] = [`select * from ${quoted(step.schema)}.${quoted(step.routine)}(`];
  let count = 0;
  let named = false;
  step.arguments.forEach((argument, at) => {
    const value = valueOf(argument, at, parameters, binding);
    if (value === undefined) {
      named = true;
      return;
    }
    if (named && argument.name === '') return;
    if (argument.name !== '') named = true;
    parts.push(count++ === 0 ? '' : ', ', argument.name === '' ? '' : `${quoted(argument.name)} => `, value);
  });
  parts.push(`)${step.columns === undefined ? '' : ` as called(${step.columns})`}`);
  return parts.filter((each) => each !== '');
}

/** What is passed; undefined where nothing is, and the default stands. */
function valueOf(
  { given, sourceType, several, type, startsAs }: BoundArgument,
  at: number,
  parameters: readonly Parameter[],
  { bound }: Pick<Binding, 'bound'>,
): TextValue | undefined {
  const passed = (parameter: string, value: TextValue['value']): TextValue => ({ parameter, as: sourceType, value });
  const own = `argument ${at + 1}`;
  if (given.by === 'default') return startsAs === null ? passed(own, null) : undefined;
  if (given.by === 'null') return passed(own, null);
  if (given.by === 'value') return passed(own, several ? given.value.split(',').map((each) => each.trim()) : given.value);
  const parameter = parameters.find((each) => each.id === given.parameter);
  const value = bound.get(given.parameter);
  if (!parameter || !value || value.takes === 'range') return blankOf({ startsAs }, parameter, () => passed(given.parameter, null));
  const written = (each: Value) => (each === null ? [] : [writeValue(parameterType(parameter), each)]);
  const values = value.takes === 'one' ? written(value.value) : value.values.flatMap(written);
  if (several) return passed(given.parameter, values);
  // Several values for one argument of text go as one text with commas between them.
  return passed(
    given.parameter,
    values.length === 0 ? null : value.takes === 'several' && type.kind === 'text' ? values.join(',') : (values[0] ?? null),
  );
}

/** A blank parameter that is off leaves its argument to its default, where it has one. */
function blankOf(
  { startsAs }: Pick<BoundArgument, 'startsAs'>,
  parameter: Parameter | undefined,
  nothing: () => TextValue,
): TextValue | undefined {
  return parameter?.leftBlank === 'condition is off' && startsAs !== null ? undefined : nothing();
}

/** What a blank parameter does to an argument, in words. */
export function blankWords({ startsAs }: Pick<BoundArgument, 'startsAs'>, { leftBlank }: Pick<Parameter, 'leftBlank'>): string {
  if (leftBlank === 'must be filled') return 'must be filled';
  return leftBlank === 'condition is off' && startsAs !== null ? `left blank: its default, ${startsAs}` : 'left blank: null';
}
