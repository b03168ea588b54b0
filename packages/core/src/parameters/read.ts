import type { Calendar, Read, Value } from '../values';
import { DAY_MICROS, floorDivide, localOf, readValue } from '../values';
import type { Parameter } from './parameter';
import { parameterType } from './parameter';
import { parseRelativeDay, parseStretch, resolveRelativeDay, resolveStretch } from './relative';

const MISSED: Read = { ok: false, expected: 'a day within the years 1 to 9999' };

/** The day of a moment, where the dataset is. */
export const dayOfMoment = (now: bigint, { zone }: Pick<Calendar, 'zone'>): number => Number(floorDivide(localOf(now, zone), DAY_MICROS));

/** The value a text means for a parameter: wire form, or for days a relative date. The `until` end of date-times is a day's end. */
export function readParameterValue(parameter: Parameter, source: string, now: bigint, calendar: Calendar, end: 'from' | 'until'): Read {
  const type = parameterType(parameter);
  if (parameter.type !== 'date' && parameter.type !== 'date-time') return readValue(type, source);
  const relative = parseRelativeDay(source);
  if (relative) {
    const day = resolveRelativeDay(relative, dayOfMoment(now, calendar), calendar);
    return day === undefined ? MISSED : { ok: true, value: asTyped(parameter, day, end) };
  }
  const read = readValue(type, source);
  if (!read.ok) return { ok: false, expected: `${read.expected}, or a day such as today or start of last month` };
  const dayOnly = parameter.type === 'date-time' && !/\d[ T]\d/.test(source.trim());
  return dayOnly && end === 'until' && typeof read.value === 'bigint' ? { ok: true, value: read.value + DAY_MICROS - 1n } : read;
}

/** Both ends of a relative stretch, where a text means one. */
export function readStretch(
  parameter: Parameter,
  source: string,
  now: bigint,
  calendar: Calendar,
): { readonly from: Value; readonly until: Value } | undefined {
  if (parameter.type !== 'date' && parameter.type !== 'date-time') return undefined;
  const stretch = parseStretch(source);
  const days = stretch && resolveStretch(stretch, dayOfMoment(now, calendar), calendar);
  return days && { from: asTyped(parameter, days.from, 'from'), until: asTyped(parameter, days.until, 'until') };
}

function asTyped({ type }: Parameter, day: number, end: 'from' | 'until'): Value {
  if (type === 'date') return day;
  return BigInt(day) * DAY_MICROS + (end === 'until' ? DAY_MICROS - 1n : 0n);
}
