import type { GivenValues, Parameter } from '../parameters';
import { PARAMETER_NAME, parameterType, parameterTypeFor } from '../parameters';
import { commonType } from '../expressions';
import type {
  BoundArgument,
  DescribedField,
  FieldsNow,
  GivenArgument,
  ProcedureStep,
  RoutineArgument,
  RoutineEntry,
  TriedArgument,
} from '../steps';
import { argumentOf, callOuts, callText, cursorArguments, fieldsNow, kindOf, procedureStep } from '../steps';
import type { CallResult } from '../sql';
import type { Mint } from './build';
import { removeParameter } from './build';
import type { Definition } from './definition';
import type { Edit } from './edits';
import { equal } from './equal';

/** A function as its source describes it, and the columns of its rows. */
export interface DescribedRoutine {
  readonly routine: RoutineEntry;
  readonly columns: readonly DescribedField[];
}

/** What is read of a call, and the values it was tried with: its new parameters start as these. */
export interface CallAsked {
  readonly result?: CallResult | undefined;
  readonly given?: readonly TriedArgument[];
}

/** A step that calls a function, and the parameters made for its arguments. */
export interface CallMade {
  readonly step: ProcedureStep;
  readonly parameters: readonly Parameter[];
}

/**
 * A function as a step: a parameter for each argument, one that is there already where name and type fit. It must be
 * filled where the function has no default. No field is taken yet.
 */
export function callStep(
  { parameters }: Pick<Definition, 'parameters'>,
  mint: Mint,
  source: string,
  { routine, columns }: DescribedRoutine,
  { result, given = [] }: CallAsked = {},
): CallMade {
  const step = procedureStep(mint, source, routine, result);
  const made: Parameter[] = [];
  const cursors = cursorArguments(routine);
  const bound = step.arguments.map((argument, at): BoundArgument => {
    // The source names a cursor itself where nobody does.
    if (cursors.has(at)) return argument;
    const parameter = parameterOf(argument, at, [...parameters, ...made], mint);
    const typed = given[at];
    const begun = typed?.by === 'value' ? { ...parameter, startsAs: argument.several ? typed.value.split(',') : [typed.value] } : parameter;
    if (!parameters.includes(parameter) && !made.some((each) => each.id === parameter.id)) made.push(begun);
    return { ...argument, given: { by: 'parameter', parameter: parameter.id } };
  });
  return { step: { ...step, arguments: bound, fields: fieldsNow([], columns, mint).fields }, parameters: made };
}

function parameterOf(argument: BoundArgument, at: number, known: readonly Parameter[], mint: Mint): Parameter {
  const fresh = parameterForArgument(argument, at, known, mint);
  const fitting = known.find(
    (each) =>
      each.name === wantedName(argument, at) && each.takes === fresh.takes && commonType(parameterType(each), argument.type) !== undefined,
  );
  return fitting ?? fresh;
}

const wantedName = ({ name }: RoutineArgument, at: number) => (PARAMETER_NAME.test(name) ? name : `value_${at + 1}`);

/** A new parameter for an argument, under a name that none of the known ones has. */
export function parameterForArgument(argument: RoutineArgument, at: number, known: readonly Parameter[], mint: Mint): Parameter {
  const wanted = wantedName(argument, at);
  let name = wanted;
  for (let count = 2; known.some((each) => each.name === name); count++) name = `${wanted}_${count}`;
  return {
    id: mint(),
    name,
    type: parameterTypeFor(argument.type),
    takes: argument.several ? 'several' : 'one',
    leftBlank: argument.startsAs === null ? 'must be filled' : 'condition is off',
    startsAs: [],
    hint: '',
  };
}

/** An argument is given something else; a parameter that nothing asks with any more goes with that. */
export function giveArgument(definition: Definition, step: ProcedureStep, at: number, given: GivenArgument): readonly Edit[] {
  const before = step.arguments[at]?.given;
  if (!before || equal(before, given)) return [];
  const to = step.arguments.map((each, index) => (index === at ? { ...each, given } : each));
  const set: Edit = { kind: 'set step', step: step.id, property: 'arguments', from: step.arguments, to };
  const parameter = before.by === 'parameter' ? definition.parameters.find((each) => each.id === before.parameter) : undefined;
  const steps = definition.steps.map((each) => (each.id === step.id ? { ...step, arguments: to } : each));
  if (!parameter || isAskedWith({ ...definition, steps }, parameter.id)) return [set];
  return [set, removeParameter(definition, parameter)];
}

/** Whether a step asks with a parameter, or the choices of another one are narrowed by it. */
function isAskedWith({ steps, parameters }: Definition, id: string): boolean {
  const narrows = parameters.some(
    ({ choices }) => choices && choices.from !== 'typed' && choices.narrowedBy.some((each) => each.parameter === id),
  );
  return (
    narrows ||
    steps.some((each) =>
      kindOf(each)
        .uses(each, parameters)
        .some((use) => use.kind === 'parameter' && use.id === id),
    )
  );
}

/** What a changed function does to a step: the edits that accept it, and what that does to its fields. */
export interface CallTakenOver extends FieldsNow {
  readonly edits: readonly Edit[];
}

/** A function as it is now, taken over: arguments keep what they are given by name, a new one has its default or null. */
export function takeCallOver(step: ProcedureStep, { routine, columns }: DescribedRoutine, mint: Mint): CallTakenOver {
  const given = routine.arguments.map((each, at): BoundArgument => {
    const before = each.name === '' ? step.arguments[at] : step.arguments.find((old) => old.name === each.name);
    return { ...argumentOf(each), given: before?.given ?? (each.startsAs === null ? { by: 'null' } : { by: 'default' }) };
  });
  const now = fieldsNow(step.fields, columns, mint);
  const ids = new Set(now.fields.map((each) => each.id));
  const set = (property: keyof ProcedureStep, to: unknown): readonly Edit[] =>
    equal(step[property], to) ? [] : [{ kind: 'set step', step: step.id, property, from: step[property], to } as Edit];
  const edits = [
    ...set('arguments', given),
    ...set('gives', routine.gives),
    ...(routine.kind === 'procedure' ? set('call', callOuts(routine.outs)) : []),
    ...set('body', routine.body),
    ...set(
      'taken',
      step.taken.filter((each) => ids.has(each)),
    ),
    ...set(
      'key',
      step.key.filter((each) => ids.has(each)),
    ),
    ...set('fields', now.fields),
  ];
  return { ...now, edits };
}

/** What each argument is given with the values in use, as it is tried with them. */
export const givenNow = (step: ProcedureStep, parameters: readonly Parameter[], values: GivenValues): readonly TriedArgument[] =>
  step.arguments.map(({ given, startsAs }): TriedArgument => {
    if (given.by !== 'parameter') return given;
    const parameter = parameters.find((each) => each.id === given.parameter);
    const typed = values[given.parameter] ?? parameter?.startsAs ?? [];
    if (typed.length > 0) return { by: 'value', value: typed.join(',') };
    return { by: parameter?.leftBlank === 'condition is off' && startsAs !== null ? 'default' : 'null' };
  });

/** The call of a function with nothing given yet, by which a source can say what it gives: numbered places, and their types. */
export function callToDescribe(
  { schema, name, kind, arguments: taken, outs }: Omit<RoutineEntry, 'gives' | 'body'>,
  columns: string | undefined,
): { readonly text: string; readonly types: readonly string[] } {
  const called = {
    schema,
    routine: name,
    ...(kind === 'procedure' ? { call: callOuts(outs) } : {}),
    ...(columns === undefined ? {} : { columns }),
  };
  const text = callText(
    called,
    taken.map((each, at) => ({ name: each.name, value: `$${at + 1}` })),
  ).join('');
  return { text, types: taken.map((each) => each.sourceType) };
}
