import type { Binding, Parameter } from '../parameters';
import { parameterType } from '../parameters';
import type { TextPart, TextValue } from '../statements';
import { quotedName } from '../statements';
import type { Value } from '../values';
import { writeValue } from '../values';
import type { BoundArgument, CallOut, ProcedureStep } from './procedure';

/** The temp table in which a session keeps what a call gave. */
export const CALLED = 'cendra_called';

/**
 * The call as a text: arguments by name where they have one, else by place. A default is left out, and so are those behind
 * it that have no name. No value is ever written into it. What a procedure gives back by an argument it does not take has
 * null in its place.
 */
export function callOf(step: ProcedureStep, parameters: readonly Parameter[], binding: Pick<Binding, 'bound'>): readonly TextPart[] {
  const given = step.arguments.map((argument, at) => ({ name: argument.name, value: valueOf(argument, at, parameters, binding) }));
  return callText(step, given);
}

type Passed = TextValue | string;

/** A call with what is passed for each argument it takes; undefined where its default stands. */
export function callText(
  { schema, routine, call, columns }: Pick<ProcedureStep, 'schema' | 'routine' | 'call' | 'columns'>,
  given: readonly { readonly name: string; readonly value: Passed | undefined }[],
): readonly TextPart[] {
  const passed: { readonly name: string; readonly value: Passed }[] = [];
  let named = false;
  for (const { name, value } of inPlaces(given, call ?? [])) {
    if (value === undefined) named = true;
    if (value === undefined || (named && name === '')) continue;
    if (name !== '') named = true;
    passed.push({ name, value });
  }
  const called = `${quotedName(schema)}.${quotedName(routine)}`;
  const listed = (values: readonly TextPart[]) =>
    passed.flatMap(({ name }, at) => [at === 0 ? '' : ', ', name === '' ? '' : `${quotedName(name)} => `, values[at] ?? '']);
  const own = passed.map((each) => each.value);
  if (call) return joined([`call ${called}(`, ...listed(own), ')']);
  const as = columns === undefined ? quotedName(routine) : `called(${columns})`;
  if (own.length === 0) return [`select * from ${called}() as ${as}`];
  // Read once and handed in: a function its engine writes out in place would ask for each value in every row.
  const read = own.flatMap((value, at) => [at === 0 ? '' : ', ', value, ` as v${at + 1}`]);
  const rows = columns === undefined ? quotedName(routine) : 'called';
  const each = own.map((_value, at) => `${READ_ONCE}.v${at + 1}`);
  return joined([
    `select ${rows}.* from (select `,
    ...read,
    ` offset 0) as ${READ_ONCE}, lateral ${called}(`,
    ...listed(each),
    `) as ${as}`,
  ]);
}

/** What the values of a call are read from. */
const READ_ONCE = 'cendra_given';

/** Parts with the words between values put together. */
function joined(parts: readonly TextPart[]): readonly TextPart[] {
  const done: TextPart[] = [];
  for (const part of parts) {
    const last = done.at(-1);
    if (typeof part === 'string' && typeof last === 'string') done[done.length - 1] = last + part;
    else if (part !== '') done.push(part);
  }
  return done;
}

/** What a procedure takes with what it only gives back between, each at its place. */
function inPlaces<T extends { readonly name: string; readonly value: Passed | undefined }>(given: readonly T[], outs: readonly CallOut[]) {
  const all: { readonly name: string; readonly value: Passed | undefined }[] = [...given];
  for (const { name, at } of outs) all.splice(at, 0, { name, value: 'null' });
  return all;
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

/** What a blank parameter passes for an argument, in words; undefined for one that must be filled. */
export function blankPasses(
  { startsAs }: Pick<BoundArgument, 'startsAs'>,
  { leftBlank }: Pick<Parameter, 'leftBlank'>,
): string | undefined {
  if (leftBlank === 'must be filled') return undefined;
  return leftBlank === 'condition is off' && startsAs !== null ? `its default, ${startsAs}` : 'null';
}
