import { date, datetime, whole } from '../../fields';
import { asDate, call, compare, extract, shift, widen, when, wholeLiteral, smallSum } from '../build';
import { MIN_DAY } from '../../values';
import type { Expression } from '../expression';
import type { Calendar } from '../../values';
import type { FunctionSpec, Operands } from './spec';

type Period = 'day' | 'week' | 'month' | 'quarter' | 'season' | 'year';
const PERIODS: readonly Period[] = ['day', 'week', 'month', 'quarter', 'season', 'year'];

const remainder = (of: Expression, divisor: number) => call('mod', whole, of, wholeLiteral(divisor));
const negative = (of: Expression) => smallSum('-', wholeLiteral(0), of);

/** Days since the first day of the calendar, which was a Monday. */
const daysSinceMonday = (of: Expression) => call('daysBetween', whole, { op: 'literal', type: date, value: MIN_DAY }, of);

const monthsSince = (first: number, cycle: number, month: Expression) =>
  remainder(smallSum('+', month, wholeLiteral(cycle - first)), cycle);

/** The quarter of a day, from 1 to 4, in years that begin with the calendar's first month. */
export function quarterOf(of: Expression, { firstMonthOfYear }: Calendar): Expression {
  if (firstMonthOfYear === 1) return extract('quarter', of);
  const since = monthsSince(firstMonthOfYear, 12, extract('month', of));
  const before = (month: number, then: number, otherwise: Expression) =>
    when(compare('<', since, wholeLiteral(month)), wholeLiteral(then), otherwise);
  // Without a month there is none, which the last outcome carries on.
  return before(3, 1, before(6, 2, before(9, 3, smallSum('+', wholeLiteral(4), smallSum('*', since, wholeLiteral(0))))));
}

/** The first day of the period a date lies in, for seasons of the last one that has begun. */
function startOf(period: Period, of: Expression, calendar: Calendar): Expression {
  switch (period) {
    case 'day':
      return of;
    case 'week':
      return shift(of, negative(remainder(smallSum('+', daysSinceMonday(of), wholeLiteral(8 - calendar.firstDayOfWeek)), 7)), 'day');
    case 'month':
      return shift(of, smallSum('-', wholeLiteral(1), extract('day', of)), 'day');
    case 'quarter':
    case 'season':
    case 'year': {
      const begun = monthsSinceBegun(period, of, calendar);
      return begun ? shift(startOf('month', of, calendar), negative(begun), 'month') : startOf('month', of, calendar);
    }
  }
}

/** How many months before a day its period has begun; undefined of a month itself. */
function monthsSinceBegun(period: Period, of: Expression, { firstMonthOfYear, firstMonthOfSeason }: Calendar): Expression | undefined {
  if (period === 'quarter') return remainder(monthsSince(firstMonthOfYear, 12, extract('month', of)), 3);
  if (period === 'season') return monthsSince(firstMonthOfSeason, 12, extract('month', of));
  return period === 'year' ? monthsSince(firstMonthOfYear, 12, extract('month', of)) : undefined;
}

const MONTHS_OF = { month: 1, quarter: 3, year: 12 } as const;

/** A month's last day, moved by months, is theirs: no day outside the calendar is gone through, also at its end. */
const LAST_OF_FIRST_MONTH: Expression = { op: 'literal', type: date, value: MIN_DAY + 30 };
const monthsFromFirst = (of: Expression, more: number) =>
  smallSum('+', smallSum('+', smallSum('*', extract('year', of), wholeLiteral(12)), extract('month', of)), wholeLiteral(more - 13));

/** The last day of the period; a season ends with its last month, before the next one begins. */
function endOf(period: Period, of: Expression, calendar: Calendar): Expression {
  if (period === 'day') return of;
  if (period === 'week') {
    const before = remainder(smallSum('+', daysSinceMonday(of), wholeLiteral(8 - calendar.firstDayOfWeek)), 7);
    return shift(of, smallSum('-', wholeLiteral(6), before), 'day');
  }
  const seasonal = ((calendar.lastMonthOfSeason - calendar.firstMonthOfSeason + 12) % 12) + 1;
  const months = period === 'season' ? seasonal : MONTHS_OF[period];
  const begun = monthsSinceBegun(period, of, calendar);
  const last = monthsFromFirst(of, months - 1);
  return shift(LAST_OF_FIRST_MONTH, begun ? smallSum('-', last, begun) : last, 'month');
}

const MICROS_OF_DAY = 86_400_000_000;

/** A date gives a date; a date-time gives the first moment, or the last microsecond. */
function border(which: 'start' | 'end', period: Period, operands: Operands): Expression | undefined {
  const of = operands.day(0);
  if (!of) return undefined;
  const build = which === 'start' ? startOf : endOf;
  const day = build(period, asDate(of), operands.calendar);
  if (of.type.kind === 'date') return day;
  const midnight = widen(day, datetime);
  return which === 'start' ? midnight : shift(midnight, wholeLiteral(MICROS_OF_DAY - 1), 'microsecond');
}

const words = { start: 'first', end: 'last' } as const;
const periodFunctions = (['start', 'end'] as const).flatMap((which) =>
  PERIODS.map((period): FunctionSpec => ({
    name: `${which}_of_${period}`,
    group: 'dates',
    signature: `${which}_of_${period}(date)`,
    says: `the ${words[which]} day of its ${period}; of a date-time its ${words[which]} moment`,
    least: 1,
    most: 1,
    build: (operands) => border(which, period, operands),
  })),
);

/** Both as dates, or both as date-times when one of them is. */
function sameGrain(operands: Operands): readonly [Expression, Expression] | undefined {
  const [start, end] = [operands.day(0), operands.day(1)];
  if (!start || !end) return undefined;
  const type = start.type.kind === 'date' && end.type.kind === 'date' ? date : datetime;
  return [widen(start, type), widen(end, type)];
}

/** The largest n with start + n months ≤ end: the months between the two, one fewer when that many reach beyond the end. */
function monthsBetween(operands: Operands): Expression | undefined {
  const pair = sameGrain(operands);
  if (!pair) return undefined;
  const [start, end] = pair;
  const index = (of: Expression) => smallSum('+', smallSum('*', extract('year', of), wholeLiteral(12)), extract('month', of));
  const months = smallSum('-', index(end), index(start));
  const reaches = compare('<=', shift(start, months, 'month'), end);
  return when(reaches, months, smallSum('-', months, wholeLiteral(1)));
}

export const DATES: readonly FunctionSpec[] = [
  {
    name: 'extract',
    group: 'dates',
    signature: 'extract(part from date)',
    says: 'a part of a date or time: year, quarter, month, week, day, weekday, yearday, hour, minute or second',
    least: 1,
    most: 1,
    build: (operands) => {
      const unit = operands.unit();
      const any = operands.any(0);
      if (!unit || !any) return undefined;
      const of = any.type.kind === 'time' ? any : operands.day(0);
      return of && (unit === 'quarter' ? quarterOf(of, operands.calendar) : extract(unit, of));
    },
  },
  {
    name: 'date_of',
    group: 'dates',
    signature: 'date_of(year, month, day)',
    says: 'the date of these parts; null where there is no such day',
    least: 3,
    most: 3,
    build: (operands) => {
      const [year, month, day] = [operands.whole(0), operands.whole(1), operands.whole(2)];
      return year && month && day && call('dayOf', date, year, month, day);
    },
  },
  {
    name: 'days_between',
    group: 'dates',
    signature: 'days_between(start, end)',
    says: 'how many whole days from start to end; negative when the end is earlier',
    least: 2,
    most: 2,
    build: (operands) => {
      const pair = sameGrain(operands);
      return pair && call('daysBetween', whole, ...pair);
    },
  },
  {
    name: 'months_between',
    group: 'dates',
    signature: 'months_between(start, end)',
    says: 'the largest number of months that can be added to start without passing end',
    least: 2,
    most: 2,
    build: monthsBetween,
  },
  ...periodFunctions,
];
