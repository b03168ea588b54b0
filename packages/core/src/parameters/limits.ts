import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Calendar, Value } from '../values';
import { compareValues, likeMatches } from '../values';
import type { Parameter } from './parameter';
import { parameterType } from './parameter';
import { readParameterValue } from './read';

/** What the values break of the parameter's own limits; undefined when they keep them. */
export function brokenLimit(
  parameter: Parameter,
  values: readonly Exclude<Value, null>[],
  now: bigint,
  calendar: Calendar,
): Problem | undefined {
  const { limits } = parameter;
  if (!limits) return undefined;
  const type = parameterType(parameter);
  const wrong = (code: string, message: string, expected: string) =>
    problem(code, limits.message ?? message, { parameter: parameter.id }, limits.message === undefined ? expected : undefined);
  if (limits.most !== undefined && values.length > limits.most)
    return wrong('limit-most', `:${parameter.name} was given ${values.length} values.`, `at most ${limits.most}`);
  const bound = (source: string | undefined) => {
    const read = source === undefined ? undefined : readParameterValue(parameter, source, now, calendar, 'from');
    return read?.ok ? read.value : null;
  };
  const [least, greatest] = [bound(limits.least), bound(limits.greatest)];
  for (const value of values) {
    if (least !== null && compareValues(type, value, least) < 0)
      return wrong('limit-least', `:${parameter.name} is below ${limits.least}.`, `at least ${limits.least}`);
    if (greatest !== null && compareValues(type, value, greatest) > 0)
      return wrong('limit-greatest', `:${parameter.name} is above ${limits.greatest}.`, `at most ${limits.greatest}`);
    if (limits.fits !== undefined && typeof value === 'string' && !likeMatches(value, limits.fits, undefined))
      return wrong('limit-fits', `A value of :${parameter.name} does not fit.`, `text that fits ${limits.fits}`);
  }
  return undefined;
}
