import { checkExpression, evaluate } from '../expressions';
import { isNumber, sameType } from '../fields';
import type { FieldType, Schema } from '../fields';
import type { Binding, GivenValues, Parameter } from '../parameters';
import { bindValues, parameterType } from '../parameters';
import type { Problem } from '../problem';
import { problem } from '../problem';
import { rowOf } from '../steps';
import { castValue, writeValue } from '../values';
import type { Definition } from './definition';

const NO_FIELDS: Schema = { fields: [] };

/**
 * The values of a dataset's parameters at one moment: those given, else what each starts as. `now` is in
 * microseconds of UTC. The first of the choices has to be looked up and given; until then the parameter is blank.
 */
export function bindDefinition(
  { parameters, calendar }: Pick<Definition, 'parameters' | 'calendar'>,
  given: GivenValues,
  now: bigint,
): Binding {
  const missing = parameters.filter((each) => each.startsBy === 'expression' && given[each.id] === undefined);
  if (missing.length === 0) return bindValues(parameters, given, now, calendar);
  const started = missing.map((each) => ({ id: each.id, ...startOf(each, { calendar }, now) }));
  const starts = Object.fromEntries(started.map(({ id, values }) => [id, values]));
  const binding = bindValues(parameters, { ...given, ...starts }, now, calendar);
  return { ...binding, problems: [...started.flatMap((each) => each.problems), ...binding.problems] };
}

/** What a parameter's expressions give at a moment, in wire form; null is blank. */
function startOf(parameter: Parameter, { calendar }: Pick<Definition, 'calendar'>, now: bigint) {
  const type = parameterType(parameter);
  const problems: Problem[] = [];
  const values = parameter.startsAs.map((text) => {
    const checked = checkStart(parameter, text, calendar);
    problems.push(...checked.problems);
    if (!checked.expression) return '';
    const value = evaluate(checked.expression, rowOf(new Map(), { ...EMPTY, now }));
    const typed = value === null ? null : castValue(value, checked.expression.type, type);
    return typed === null || typed === undefined ? '' : withoutZeros(writeValue(type, typed));
  });
  return { values, problems };
}

/** `18.5` rather than `18.500000`. */
const withoutZeros = (written: string) => (/^-?\d+\.\d+$/.test(written) ? written.replace(/\.?0+$/, '') : written);

const EMPTY: Binding = { bound: new Map(), blanks: new Map(), now: 0n, used: {}, problems: [] };

/** An expression a parameter starts as: over no fields, and of a type that suits. */
export function checkStart(parameter: Parameter, text: string, calendar: Definition['calendar']) {
  const place = { parameter: parameter.id };
  const checked = checkExpression(text, { schema: NO_FIELDS, parameters: [], calendar });
  const { expression } = checked;
  const problems = checked.problems.map((each) => ({ ...each, place: { ...each.place, ...place } }));
  if (expression && !suits(expression.type, parameterType(parameter)))
    return {
      problems: [...problems, problem('start-type', `What :${parameter.name} starts as is no ${parameter.type}.`, place, parameter.type)],
    };
  return expression ? { expression, problems } : { problems };
}

const suits = (given: FieldType, wanted: FieldType) =>
  sameType(given, wanted) ||
  (isNumber(given) && isNumber(wanted)) ||
  (wanted.kind === 'datetime' && (given.kind === 'date' || given.kind === 'instant')) ||
  given.kind === wanted.kind;
