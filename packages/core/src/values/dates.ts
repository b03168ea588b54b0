import { civilFromDays, DAY_MICROS, daysFromCivil, daysInMonth, floorDivide } from './calendar';

/** Calendar operations of the expression language. Days and microseconds count from 1970-01-01; years go from 1 to 9999. */

export const MIN_DAY = daysFromCivil({ year: 1, month: 1, day: 1 });
export const MAX_DAY = daysFromCivil({ year: 9999, month: 12, day: 31 });

/** Units a day or date-time can be moved by: whole days, whole months with the month's end clipped, or exact time. */
export const SHIFT_UNITS = ['day', 'month', 'hour', 'minute', 'second', 'microsecond'] as const;
export type ShiftUnit = (typeof SHIFT_UNITS)[number];

const MICROS: Record<Exclude<ShiftUnit, 'month'>, bigint> = {
  day: DAY_MICROS,
  hour: 3_600_000_000n,
  minute: 60_000_000n,
  second: 1_000_000n,
  microsecond: 1n,
};

/** More of a unit than this leaves the calendar from wherever it starts. */
export const MOST_SHIFT: Record<ShiftUnit, bigint> = {
  day: 4_000_000n,
  month: 120_000n,
  hour: 100_000_000n,
  minute: 6_000_000_000n,
  second: 400_000_000_000n,
  microsecond: 400_000_000_000_000_000n,
};

/** A day moved by days or months; undefined outside the years 1 to 9999. */
export function shiftDay(days: number, amount: bigint, unit: 'day' | 'month'): number | undefined {
  if (amount > MOST_SHIFT[unit] || amount < -MOST_SHIFT[unit]) return undefined;
  const moved = unit === 'day' ? days + Number(amount) : addMonths(days, Number(amount));
  return moved !== undefined && moved >= MIN_DAY && moved <= MAX_DAY ? moved : undefined;
}

function addMonths(days: number, months: number): number | undefined {
  const { year, month, day } = civilFromDays(days);
  const index = year * 12 + month - 1 + months;
  const target = { year: Math.floor(index / 12), month: (((index % 12) + 12) % 12) + 1 };
  if (target.year < 1 || target.year > 9999) return undefined;
  return daysFromCivil({ ...target, day: Math.min(day, daysInMonth(target.year, target.month)) });
}

/** A date-time moved; months keep the time of day. */
export function shiftDatetime(micros: bigint, amount: bigint, unit: ShiftUnit): bigint | undefined {
  if (amount > MOST_SHIFT[unit] || amount < -MOST_SHIFT[unit]) return undefined;
  if (unit !== 'month') return inYears(micros + amount * MICROS[unit]);
  const day = floorDivide(micros, DAY_MICROS);
  const moved = shiftDay(Number(day), amount, 'month');
  return moved === undefined ? undefined : BigInt(moved) * DAY_MICROS + (micros - day * DAY_MICROS);
}

function inYears(micros: bigint): bigint | undefined {
  const day = floorDivide(micros, DAY_MICROS);
  return day >= BigInt(MIN_DAY) && day <= BigInt(MAX_DAY) ? micros : undefined;
}

export const EXTRACT_UNITS = ['year', 'quarter', 'month', 'week', 'day', 'weekday', 'yearday', 'hour', 'minute', 'second'] as const;
export type ExtractUnit = (typeof EXTRACT_UNITS)[number];

/** Which parts a time of day has. */
export const CLOCK_UNITS: readonly ExtractUnit[] = ['hour', 'minute', 'second'];

/** A part of a day: the week by ISO 8601, the weekday from 1 (Monday) to 7 (Sunday). */
export function partOfDay(days: number, unit: Exclude<ExtractUnit, 'hour' | 'minute' | 'second'>): number {
  const { year, month, day } = civilFromDays(days);
  switch (unit) {
    case 'year':
      return year;
    case 'quarter':
      return Math.floor((month - 1) / 3) + 1;
    case 'month':
      return month;
    case 'day':
      return day;
    case 'weekday':
      return weekdayOf(days);
    case 'yearday':
      return days - daysFromCivil({ year, month: 1, day: 1 }) + 1;
    case 'week': {
      // The week belongs to the year its Thursday lies in.
      const thursday = days - weekdayOf(days) + 4;
      const start = daysFromCivil({ year: civilFromDays(thursday).year, month: 1, day: 1 });
      return Math.floor((thursday - start) / 7) + 1;
    }
  }
}

/** 1970-01-01 was a Thursday. */
export const weekdayOf = (days: number): number => ((((days + 3) % 7) + 7) % 7) + 1;

/** Hours and minutes are whole; seconds are microseconds, so that their fraction is exact. */
export function partOfClock(micros: bigint, unit: 'hour' | 'minute' | 'second'): bigint {
  if (unit === 'hour') return micros / 3_600_000_000n;
  return unit === 'minute' ? (micros / 60_000_000n) % 60n : micros % 60_000_000n;
}

/** A day from its parts; undefined when there is no such day in the years 1 to 9999. */
export function dayOf(year: bigint, month: bigint, day: bigint): number | undefined {
  if (year < 1n || year > 9999n || month < 1n || month > 12n || day < 1n) return undefined;
  const [y, m, d] = [Number(year), Number(month), Number(day)];
  return day <= BigInt(daysInMonth(y, m)) ? daysFromCivil({ year: y, month: m, day: d }) : undefined;
}
