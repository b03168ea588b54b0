import type { Calendar } from '../values';
import { civilFromDays, daysFromCivil, daysInMonth, MAX_DAY, shiftDay, weekdayOf } from '../values';

/**
 * Relative dates. Stretches: `this season`, `last 3 months`, `next week`; whole ones, or `so far`: then the
 * one we are in is the last of them, and it ends today. Days: `today`, `today minus 7 days`,
 * `start of this month`, `end of last season`. A season lasts in the sense of `last` and `next` until the next one begins.
 */
export const RELATIVE_UNITS = ['day', 'week', 'month', 'quarter', 'season', 'year'] as const;
export type RelativeUnit = (typeof RELATIVE_UNITS)[number];

export const RELATIVE_WHICH = ['this', 'last', 'next'] as const;

export interface Stretch {
  readonly which: (typeof RELATIVE_WHICH)[number];
  /** 1 for `this`. */
  readonly count: number;
  readonly unit: RelativeUnit;
  /** Until today instead of whole ones; never with `next`. */
  readonly soFar: boolean;
}

export type RelativeDay = { readonly at: 'today'; readonly days: number } | { readonly at: 'start' | 'end'; readonly of: Stretch };

/** Days since 1970-01-01, both included. */
export interface Days {
  readonly from: number;
  readonly until: number;
}

const MOST = 1_000;
const STRETCH = /^(this|last|next)(?: +(\d{1,4}))? +(day|week|month|quarter|season|year)(s?)(?:,? +(so far|whole ones))?$/i;

/** The stretch a text means; undefined when it means none. */
export function parseStretch(source: string): Stretch | undefined {
  const match = STRETCH.exec(source.trim());
  if (!match) return undefined;
  const which = match[1]?.toLowerCase() as Stretch['which'];
  const count = Number(match[2] ?? '1');
  const soFar = match[5]?.toLowerCase() === 'so far';
  if (count < 1 || count > MOST || (which === 'this' && count > 1) || (which === 'next' && soFar)) return undefined;
  return { which, count, unit: match[3]?.toLowerCase() as RelativeUnit, soFar };
}

export function writeStretch({ which, count, unit, soFar }: Stretch): string {
  return `${which} ${count > 1 ? `${count} ${unit}s` : unit}${soFar ? ' so far' : ''}`;
}

/** The single day a text means; undefined when it means none. */
export function parseRelativeDay(source: string): RelativeDay | undefined {
  const text = source.trim();
  const edge = /^(start|end) +of +(.*)$/i.exec(text);
  if (edge) {
    const of = parseStretch(edge[2] ?? '');
    return of && { at: edge[1]?.toLowerCase() as 'start' | 'end', of };
  }
  const today = /^today(?: +(minus|plus) +(\d{1,5})(?: +days?)?)?$/i.exec(text);
  if (!today) return undefined;
  const days = Number(today[2] ?? '0');
  return { at: 'today', days: today[1]?.toLowerCase() === 'minus' ? -days : days };
}

export function writeRelativeDay(day: RelativeDay): string {
  if (day.at !== 'today') return `${day.at} of ${writeStretch(day.of)}`;
  if (day.days === 0) return 'today';
  const count = Math.abs(day.days);
  return `today ${day.days < 0 ? 'minus' : 'plus'} ${count} day${count === 1 ? '' : 's'}`;
}

/** The days of a stretch as seen from a day; undefined where it leaves the years 1 to 9999. */
export function resolveStretch({ which, count, unit, soFar }: Stretch, today: number, calendar: Calendar): Days | undefined {
  const [first, last] = which === 'this' ? [0, 0] : which === 'next' ? [1, count] : soFar ? [1 - count, 0] : [-count, -1];
  const from = stretchStart(today, unit, first, calendar);
  const begun = stretchStart(today, unit, last, calendar);
  const end = begun === undefined ? undefined : endOf(begun, unit, calendar);
  // A stretch that is so far ends today, whatever becomes of its end.
  const until = soFar ? Math.min(today, end ?? MAX_DAY) : end;
  return from === undefined || until === undefined ? undefined : { from, until };
}

export function resolveRelativeDay(day: RelativeDay, today: number, calendar: Calendar): number | undefined {
  if (day.at === 'today') return shiftDay(today, BigInt(day.days), 'day');
  const days = resolveStretch(day.of, today, calendar);
  return day.at === 'start' ? days?.from : days?.until;
}

/** The first day of the unit that a day lies in, moved by some units; undefined outside the years 1 to 9999. */
export function stretchStart(today: number, unit: RelativeUnit, moved: number, calendar: Calendar): number | undefined {
  switch (unit) {
    case 'day':
      return shiftDay(today, BigInt(moved), 'day');
    case 'week': {
      const start = today - ((weekdayOf(today) - calendar.firstDayOfWeek + 7) % 7);
      return shiftDay(start, BigInt(moved * 7), 'day');
    }
    case 'month':
      return shiftDay(monthStart(today, 1, 1), BigInt(moved), 'month');
    case 'quarter':
      return shiftDay(monthStart(today, calendar.firstMonthOfYear, 3), BigInt(moved * 3), 'month');
    case 'season':
      return shiftDay(monthStart(today, calendar.firstMonthOfSeason, 12), BigInt(moved * 12), 'month');
    case 'year':
      return shiftDay(monthStart(today, calendar.firstMonthOfYear, 12), BigInt(moved * 12), 'month');
  }
}

/** The first day of the last month, counted from `firstMonth` in steps of `length`, that has begun. */
function monthStart(today: number, firstMonth: number, length: number): number {
  const { year, month } = civilFromDays(today);
  const since = (month - firstMonth + 12) % length;
  const index = year * 12 + month - 1 - since;
  return daysFromCivil({ year: Math.floor(index / 12), month: (index % 12) + 1, day: 1 });
}

/** The last day of a unit that begins with a day; undefined where it leaves the calendar. */
function endOf(begun: number, unit: RelativeUnit, { firstMonthOfSeason, lastMonthOfSeason }: Calendar): number | undefined {
  if (unit === 'day') return begun;
  if (unit === 'week') return shiftDay(begun, 6n, 'day');
  const seasonal = ((lastMonthOfSeason - firstMonthOfSeason + 12) % 12) + 1;
  const months = { month: 1, quarter: 3, season: seasonal, year: 12 }[unit];
  const { year, month } = civilFromDays(begun);
  const index = year * 12 + month - 1 + months - 1;
  const last = { year: Math.floor(index / 12), month: (index % 12) + 1 };
  return last.year > 9999 ? undefined : daysFromCivil({ ...last, day: daysInMonth(last.year, last.month) });
}
