import type { Call, Expression } from '../expressions';
import type { Decimal, ShiftUnit } from '../values';
import { DAY_MICROS, formatDate, formatDatetime, MAX_DAY, MIN_DAY, MOST_SHIFT, shiftDatetime, shiftDay } from '../values';

/** The whole number an operand is, when it is written out. */
export function literalWhole(node: Expression | undefined): bigint | undefined {
  return node?.op === 'literal' && node.value !== null && node.type.kind === 'whole' ? (node.value as Decimal).digits : undefined;
}

/** The text an operand is, when it is written out. */
export function literalText(node: Expression | undefined): string | undefined {
  return node?.op === 'literal' && node.type.kind === 'text' && node.value !== null ? String(node.value) : undefined;
}

/** Days and date-times of the years 1 to 9999, as generated SQL writes them. */
export const FIRST_DAY = `date '${formatDate(MIN_DAY)}'`;
export const LAST_DAY = `date '${formatDate(MAX_DAY)}'`;
export const FIRST_MOMENT = `timestamp '${formatDatetime(BigInt(MIN_DAY) * DAY_MICROS)}'`;
export const LAST_MOMENT = `timestamp '${formatDatetime(BigInt(MAX_DAY + 1) * DAY_MICROS - 1n)}'`;

/** Month numbers, counted as year × 12 + month − 1, of the first and last month of the calendar. */
export const FIRST_MONTH = 12;
export const LAST_MONTH = 9999 * 12 + 11;

/**
 * From where to where a date or date-time can be moved by a written-out amount and stay in the years 1 to 9999,
 * as literals; 'never' when it leaves them from everywhere.
 */
export function startsOf(node: Call, amount: bigint): readonly [string, string] | 'never' {
  const unit = node.unit as ShiftUnit;
  if (amount > MOST_SHIFT[unit] || amount < -MOST_SHIFT[unit]) return 'never';
  const dated = node.type.kind === 'date';
  const ends = dated ? dayEnds(amount, unit as 'day' | 'month') : momentEnds(amount, unit);
  if (!ends) return 'never';
  return [`${dated ? 'date' : 'timestamp'} '${ends[0]}'`, `${dated ? 'date' : 'timestamp'} '${ends[1]}'`];
}

function dayEnds(amount: bigint, unit: 'day' | 'month'): readonly [string, string] | undefined {
  const low = amount < 0n ? shiftDay(MIN_DAY, -amount, unit) : MIN_DAY;
  const high = amount > 0n ? shiftDay(MAX_DAY, -amount, unit) : MAX_DAY;
  if (low === undefined || high === undefined) return undefined;
  return [formatDate(low), formatDate(unit === 'month' && amount > 0n ? lastOfMonth(high) : high)];
}

function momentEnds(amount: bigint, unit: ShiftUnit): readonly [string, string] | undefined {
  const [first, last] = [BigInt(MIN_DAY) * DAY_MICROS, BigInt(MAX_DAY + 1) * DAY_MICROS - 1n];
  if (unit === 'month') {
    const days = dayEnds(amount, unit);
    return days && [`${days[0]} 00:00:00`, `${days[1]} 23:59:59.999999`];
  }
  const low = amount < 0n ? shiftDatetime(first, -amount, unit) : first;
  const high = amount > 0n ? shiftDatetime(last, -amount, unit) : last;
  return low === undefined || high === undefined ? undefined : [formatDatetime(low), formatDatetime(high)];
}

/** Every day of a month can be moved by months; 31 December leads back to a clipped end. */
function lastOfMonth(day: number): number {
  const next = shiftDay(day, 1n, 'month');
  if (next === undefined) return day;
  for (let at = day; ; at++) if (shiftDay(at + 1, 0n, 'day') === undefined || formatDate(at + 1).endsWith('-01')) return at;
}
