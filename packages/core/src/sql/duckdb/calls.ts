import type { Call } from '../../expressions';
import { digitsOf, LARGEST_LOG, SMALLEST_LOG } from '../../expressions';
import { DAY_MICROS, LOWER_TABLE, MOST_SHIFT, UPPER_TABLE } from '../../values';
import type { ShiftUnit } from '../../values';
import type { BindText } from '../dialect';
import { FIRST_DAY, FIRST_MOMENT, LAST_DAY, LAST_MOMENT, literalText, literalWhole } from '../shifts';
import { dayFrom } from './casts';
import { duckdbTypeName } from './names';
import { finite, once } from './once';

/** The operations of the expression language in DuckDB. Nothing in them raises, whatever the values. */
export function callSql(node: Call, of: readonly string[], bind: BindText): string {
  const [a = '', b = '', c = ''] = of;
  const type = duckdbTypeName(node.type);
  const typed = (sql: string) => (node.type.kind === 'float' ? finite(sql) : `cast(${sql} as ${type})`);
  switch (node.name) {
    case 'concat':
      return `(${a} || ${b})`;
    case 'charLength':
      return `length(${a})`;
    case 'upper':
      return mapped('upper', UPPER_TABLE, a, bind);
    case 'lower':
      return mapped('lower', LOWER_TABLE, a, bind);
    case 'substring':
      return substringSql(of);
    case 'position':
      return `strpos(${b}, ${a})`;
    case 'trimBoth':
      return `trim(${a}, ${b})`;
    case 'trimLeading':
      return `ltrim(${a}, ${b})`;
    case 'trimTrailing':
      return `rtrim(${a}, ${b})`;
    case 'replace':
      return `replace(${a}, ${b}, ${c})`;
    case 'joinText':
      return once(
        of,
        (separator, ...items) =>
          `case when coalesce(${items.join(', ')}) is not null then concat_ws(${separator}, ${items.join(', ')}) end`,
      );
    case 'padZeros':
      return once([a], (x) => `repeat('0', greatest(${literalWhole(node.of[1]) ?? 0n} - length(${x}), 0)) || ${x}`);
    case 'groupDigits': {
      const sign = literalText(node.of[2]) ?? '';
      const into = bind(`\\1${sign === '\\' ? '\\\\' : sign}`);
      return `reverse(rtrim(regexp_replace(reverse(${a}), '(.{${literalWhole(node.of[1]) ?? 3n}})', ${into}, 'g'), ${c}))`;
    }
    case 'captured':
      return `nullif(regexp_extract(${a}, ${b}, ${literalWhole(node.of[2]) ?? 1n}), '')`;
    case 'pick':
      return `([${of.slice(1).join(', ')}])[${a}]`;
    case 'abs':
      return node.type.kind === 'float' ? finite(`abs(${a})`) : `abs(cast(${a} as ${type}))`;
    case 'mod':
      return remainder(node, a, b);
    case 'floor':
      return typed(`floor(${a})`);
    case 'ceiling':
      return typed(`ceil(${a})`);
    case 'round':
      return node.type.kind === 'float'
        ? finite(once([a], (x) => `trunc(${x}) + case when abs(${x} - trunc(${x})) >= 0.5 then sign(${x}) else 0 end`))
        : typed(`round(${a}, ${literalWhole(node.of[1]) ?? 0n})`);
    case 'power':
      return power(a, b);
    case 'sqrt':
      return finite(once([a], (x) => `case when ${x} >= 0 then sqrt(${x}) end`));
    case 'greatest':
    case 'least':
      return once(
        of,
        (...items) => `case when ${items.map((each) => `${each} is not null`).join(' and ')} then ${node.name}(${items.join(', ')}) end`,
      );
    case 'extract':
      return extracted(node, a);
    case 'shift':
      return shifted(node, a, b);
    case 'daysBetween':
      return daysBetween(node, a, b);
    case 'dayOf':
      return once(of, (year = '', month = '', day = '') => dayFrom(year, month, day));
    case 'addSmall':
      return `(${a} + ${b})`;
    case 'subtractSmall':
      return `(${a} - ${b})`;
    case 'multiplySmall':
      return `(${a} * ${b})`;
  }
}

/** Plain letters by DuckDB itself, which is fast; others by the table, one letter for one. */
function mapped(name: 'upper' | 'lower', table: { readonly from: string; readonly to: string }, of: string, bind: BindText): string {
  const [from, to] = [bind(table.from), bind(table.to)];
  return once([of], (x) => `case when strlen(${x}) = length(${x}) then ${name}(${x}) else translate(${x}, ${from}, ${to}) end`);
}

/** DuckDB counts a negative start from the end, so the start is never left negative. */
function substringSql(of: readonly string[]): string {
  const [text = '', from = '', length] = of;
  const most = 4_000_000_000;
  if (length === undefined)
    return once([text, from], (x, f) => `case when ${f} is not null then substring(${x}, least(greatest(${f}, 1), ${most})) end`);
  return once([text, from, length], (x, f, l) => {
    const begin = `least(greatest(${f}, 1), ${most})`;
    const size = `least(greatest(${f}::hugeint + ${l} - greatest(${f}, 1), 0), ${most})::bigint`;
    return `case when ${l} >= 0 and ${f} is not null then substring(${x}, ${begin}, ${size}) end`;
  });
}

/** By −1 nothing is left, which DuckDB would compute as a quotient that may not fit. */
function remainder(node: Call, a: string, b: string): string {
  if (node.type.kind === 'whole')
    return once([a, b], (x, y) => `case when ${y} = -1 and ${x} is not null then 0 else ${x} % nullif(${y}, 0) end`);
  const [x, y] = node.of.map((each) => digitsOf(each.type));
  const scale = Math.max(x?.scale ?? 0, y?.scale ?? 0);
  const wholeDigits = Math.max((x?.precision ?? 0) - (x?.scale ?? 0), (y?.precision ?? 0) - (y?.scale ?? 0));
  const common = `decimal(${Math.max(1, wholeDigits + scale)},${scale})`;
  return `cast(cast(${a} as ${common}) % nullif(cast(${b} as ${common}), 0) as ${duckdbTypeName(node.type)})`;
}

function power(base: string, exponent: string): string {
  return once([base, exponent], (x, y) => {
    const size = `(${y} / 1024) * ln(abs(${x}))`;
    return [
      `case when ${x} is null or ${y} is null or not isfinite(${x}) or not isfinite(${y}) then null`,
      `when ${y} = 0 then 1`,
      `when ${x} = 0 then case when ${y} < 0 then null else 0 end`,
      `when ${x} < 0 and ${y} <> floor(${y}) then null`,
      `when abs(${y}) < 1e-290 then 1`,
      `when ${size} > ${LARGEST_LOG / 1024} then null`,
      `when ${size} < ${SMALLEST_LOG / 1024} then 0`,
      `else power(${x}, ${y}) end`,
    ].join(' ');
  });
}

const PARTS = { weekday: 'isodow', yearday: 'doy' } as const;

function extracted(node: Call, of: string): string {
  const unit = node.unit ?? 'day';
  if (unit === 'second')
    return `cast(cast(extract(microsecond from ${of}) as decimal(14,0)) * cast(0.000001 as decimal(7,6)) as decimal(8,6))`;
  return `extract(${unit === 'weekday' || unit === 'yearday' ? PARTS[unit] : unit} from ${of})`;
}

const INTERVALS: Record<ShiftUnit, string> = {
  day: 'to_days',
  month: 'to_months',
  hour: 'to_hours',
  minute: 'to_minutes',
  second: 'to_seconds',
  microsecond: 'to_microseconds',
};

/** DuckDB's own calendar is far longer than ours, so the moved day can be looked at afterwards. */
function shifted(node: Call, of: string, amount: string): string {
  const unit = node.unit as ShiftUnit;
  const dated = node.type.kind === 'date';
  const [first, last] = dated ? [FIRST_DAY, LAST_DAY] : [FIRST_MOMENT, LAST_MOMENT];
  const most = MOST_SHIFT[unit];
  const n = (sql: string) => (unit === 'day' || unit === 'month' ? `cast(${sql} as integer)` : sql);
  const moved = once([of, amount], (x, y) => {
    const added = dated && unit === 'day' ? `${x} + ${n(y)}` : `${x} + ${INTERVALS[unit]}(${n(y)})`;
    return `case when ${y} between -${most} and ${most} then ${dated ? `cast(${added} as date)` : added} end`;
  });
  return once([moved], (x) => `case when ${x} between ${first} and ${last} then ${x} end`);
}

/** Whole days, rounded down. */
function daysBetween(node: Call, start: string, end: string): string {
  if (node.of[0]?.type.kind === 'date') return `date_diff('day', ${start}, ${end})`;
  return once(
    [`epoch_us(${end}) - epoch_us(${start})`],
    (x) => `(${x} - ((${x} % ${DAY_MICROS}) + ${DAY_MICROS}) % ${DAY_MICROS}) // ${DAY_MICROS}`,
  );
}
