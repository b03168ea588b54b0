import type { Call, Expression } from '../../expressions';
import type { ShiftUnit } from '../../values';
import { MOST_SHIFT } from '../../values';
import { FIRST_DAY, FIRST_MOMENT, FIRST_MONTH, LAST_DAY, LAST_MOMENT, LAST_MONTH, literalWhole, startsOf } from '../shifts';
import { once } from './once';

/** An amount as an interval. Long times are split into days and the rest, which fit its integers. */
function interval(unit: ShiftUnit, n: string): string {
  switch (unit) {
    case 'day':
      return `make_interval(days => (${n})::int)`;
    case 'month':
      return `make_interval(months => (${n})::int)`;
    case 'hour':
      return `make_interval(days => ((${n}) / 24)::int, hours => ((${n}) % 24)::int)`;
    case 'minute':
      return `make_interval(days => ((${n}) / 1440)::int, mins => ((${n}) % 1440)::int)`;
    case 'second':
      return `make_interval(days => ((${n}) / 86400)::int, secs => ((${n}) % 86400)::double precision)`;
    case 'microsecond':
      return `make_interval(days => ((${n}) / 86400000000)::int, secs => (((${n}) % 86400000000)::numeric / 1000000)::double precision)`;
  }
}

/** A date or date-time moved; null where that leaves the years 1 to 9999. */
export function shiftSql(node: Call, of: string, amount: string): string {
  const unit = node.unit as ShiftUnit;
  const dated = node.type.kind === 'date';
  const moved = (x: string, n: string) =>
    dated && unit === 'day' ? `${x} + (${n})::int` : dated ? `(${x} + ${interval(unit, n)})::date` : `${x} + ${interval(unit, n)}`;
  const literal = literalWhole(node.of[1]);
  if (literal !== undefined) {
    const starts = startsOf(node, literal);
    if (starts === 'never') return `cast(null as ${dated ? 'date' : 'timestamp'})`;
    return once([of], (x) => `case when ${x} between ${starts[0]} and ${starts[1]} then ${moved(x, `${literal}`)} end`);
  }
  if (dated && unit === 'day' && isSmall(node.of[1])) {
    const inside = `between date '0002-01-01' and date '9998-12-31'`;
    return once(
      [of],
      (x) =>
        `case when ${x} ${inside} then ${moved(x, amount)} else ${once([x, amount], (y, n) => `case when ${stays(unit, dated, y, n)} then ${moved(y, n)} end`)} end`,
    );
  }
  const most = MOST_SHIFT[unit];
  return once(
    [of, amount],
    (x, n) => `case when ${n} between -${most} and ${most} and ${stays(unit, dated, x, n)} then ${moved(x, n)} end`,
  );
}

/** Parts of a date and what is made of them: days of a week, a month or a year. */
function isSmall(amount: Expression | undefined): boolean {
  return amount?.op === 'call' && (amount.name === 'addSmall' || amount.name === 'subtractSmall');
}

/** Whether the moved day is one of the calendar, asked so that the question cannot raise. */
function stays(unit: ShiftUnit, dated: boolean, x: string, n: string): string {
  const [first, last] = dated ? [FIRST_DAY, LAST_DAY] : [FIRST_MOMENT, LAST_MOMENT];
  const known = `${x} between ${first} and ${last}`;
  if (unit === 'month')
    return `${known} and extract(year from ${x}) * 12 + extract(month from ${x}) - 1 + ${n} between ${FIRST_MONTH} and ${LAST_MONTH}`;
  const length = dated ? n : interval(unit, n);
  return `${known} and ${length} between ${first} - ${x} and ${last} - ${x}`;
}
