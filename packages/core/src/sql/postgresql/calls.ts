import type { Call } from '../../expressions';
import { digitsOf, LARGEST_LOG, SMALLEST_LOG } from '../../expressions';
import { LOWER_TABLE, UPPER_TABLE } from '../../values';
import type { BindText } from '../dialect';
import { literalText, literalWhole } from '../shifts';
import { dayFrom } from './casts';
import { divisor, finite, guarded, once } from './once';
import { shiftSql } from './shift';

/** Whole numbers take part in the arithmetic of decimals as numerics, among themselves as they are. */
const exact = (node: Call, index: number, sql: string) =>
  node.of[index]?.type.kind === 'whole' && node.type.kind !== 'whole' ? `${sql}::numeric` : sql;

/** The operations of the expression language in PostgreSQL. Nothing in them raises, whatever the values. */
export function callSql(node: Call, of: readonly string[], bind: BindText): string {
  const [a = '', b = '', c = ''] = of;
  const binary = (sql: string) => (node.type.kind === 'text' ? `${sql} collate "C"` : sql);
  switch (node.name) {
    case 'concat':
      return `(${a} || ${b})`;
    case 'charLength':
      return `char_length(${a})::bigint`;
    case 'upper':
      return mapped('upper', UPPER_TABLE, a, bind);
    case 'lower':
      return mapped('lower', LOWER_TABLE, a, bind);
    case 'substring':
      return substringSql(node, of);
    case 'position':
      return `strpos(${b} collate "C", ${a})::bigint`;
    case 'trimBoth':
      return `btrim(${a}, ${b})`;
    case 'trimLeading':
      return `ltrim(${a}, ${b})`;
    case 'trimTrailing':
      return `rtrim(${a}, ${b})`;
    case 'replace':
      return `replace(${a} collate "C", ${b}, ${c})`;
    case 'joinText':
      return once(
        of,
        (separator, ...items) =>
          `case when coalesce(${items.join(', ')}) is not null then concat_ws(${separator}, ${items.join(', ')}) end`,
      );
    case 'padZeros':
      return once([a], (x) => `repeat('0', greatest(${literalWhole(node.of[1]) ?? 0n} - char_length(${x}), 0)) || ${x}`);
    case 'groupDigits': {
      const sign = literalText(node.of[2]) ?? '';
      const into = bind(`\\1${sign === '\\' ? '\\\\' : sign}`);
      return `reverse(rtrim(regexp_replace(reverse(${a}) collate "C", '(.{${literalWhole(node.of[1]) ?? 3n}})', ${into}, 'g'), ${c}))`;
    }
    case 'captured':
      return `(regexp_match(${a} collate "C", ${b}))[${literalWhole(node.of[2]) ?? 1n}]`;
    case 'pick':
      return `(array[${of.slice(1).join(', ')}])[${a}::int]`;
    case 'abs':
      return node.type.kind === 'float' ? finite(`abs(${a})`) : `abs(${exact(node, 0, a)})`;
    case 'mod':
      return `mod(${exact(node, 0, a)}, ${divisor(node.of[1], exact(node, 1, b))})`;
    case 'floor':
      return node.type.kind === 'float' ? finite(`floor(${a})`) : `floor(${a})`;
    case 'ceiling':
      return node.type.kind === 'float' ? finite(`ceil(${a})`) : `ceil(${a})`;
    case 'round':
      return rounded(node, a);
    case 'power':
      return power(a, b);
    case 'sqrt':
      return finite(once([a], (x) => `case when ${x} >= 0 then sqrt(${x}) end`));
    case 'greatest':
    case 'least':
      return once(
        of,
        (...items) =>
          `case when ${items.map((each) => `${each} is not null`).join(' and ')} then ${node.name}(${items.map(binary).join(', ')}) end`,
      );
    case 'extract':
      return extracted(node, a);
    case 'shift':
      return shiftSql(node, a, b);
    case 'daysBetween':
      return daysBetween(node, a, b);
    case 'dayOf':
      return once(of, (year, month, day) => dayFrom(year ?? '', month ?? '', day ?? ''));
    case 'addSmall':
      return `(${a} + ${b})`;
    case 'subtractSmall':
      return `(${a} - ${b})`;
    case 'multiplySmall':
      return `(${a} * ${b})`;
  }
}

/** Plain letters by PostgreSQL itself, which is fast; others by the table, which does not depend on its locales. */
function mapped(name: 'upper' | 'lower', table: { readonly from: string; readonly to: string }, of: string, bind: BindText): string {
  const [from, to] = [bind(table.from), bind(table.to)];
  return once(
    [of],
    (x) => `case when octet_length(${x}) = char_length(${x}) then ${name}(${x} collate "C") else translate(${x}, ${from}, ${to}) end`,
  );
}

const INT = 2_147_483_647n;
const within = (value: bigint) => (value > INT ? INT : value < -INT ? -INT : value);

/** Positions are clamped before they become PostgreSQL's integers; a negative length gives null. */
function substringSql(node: Call, of: readonly string[]): string {
  const [text = '', from = '', length] = of;
  const [start, count] = [literalWhole(node.of[1]), literalWhole(node.of[2])];
  if (length === undefined)
    return start === undefined
      ? once([text, from], (x, f) => `case when ${f} is not null then substring(${x}, least(greatest(${f}, 1), ${INT})::int) end`)
      : `substring(${text}, ${start < 1n ? 1n : within(start)})`;
  if (start !== undefined && count !== undefined) {
    if (count < 0n) return 'cast(null as text)';
    const begin = start < 1n ? 1n : within(start);
    const end = start + count;
    return `substring(${text}, ${begin}, ${within(end > begin ? end - begin : 0n)})`;
  }
  return once([text, from, length], (x, f, l) => {
    const begin = `least(greatest(${f}, 1), ${INT})`;
    const size = `least(greatest(${f}::numeric + ${l} - greatest(${f}, 1), 0), ${INT})`;
    return `case when ${l} >= 0 and ${f} is not null then substring(${x}, ${begin}::int, ${size}::int) end`;
  });
}

function rounded(node: Call, of: string): string {
  if (node.type.kind === 'float')
    return finite(once([of], (x) => `trunc(${x}) + case when abs(${x} - trunc(${x})) >= 0.5 then sign(${x}) else 0 end`));
  const places = literalWhole(node.of[1]) ?? 0n;
  const sql = `round(${of}, ${places})`;
  const { precision, scale } = digitsOf(node.type) ?? { precision: 38, scale: 0 };
  return places < 0n && precision >= 38 ? guarded(sql, precision - scale) : sql;
}

/** PostgreSQL raises for powers that are no number or too large, and for those too small to be told from zero. */
function power(base: string, exponent: string): string {
  return once([base, exponent], (x, y) => {
    const size = `(${y} / 1024) * ln(abs(${x}))`;
    return [
      `case when ${x} is null or ${y} is null or abs(${x}) >= 'Infinity' or abs(${y}) >= 'Infinity' then null`,
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
  const part = unit === 'weekday' || unit === 'yearday' ? PARTS[unit] : unit;
  const type = unit === 'second' ? 'numeric' : 'bigint';
  return `extract(${part} from ${of})::${type}`;
}

function daysBetween(node: Call, start: string, end: string): string {
  const dates = node.of[0]?.type.kind === 'date';
  return dates ? `(${end} - ${start})::bigint` : `floor(extract(epoch from ${end} - ${start}) / 86400)::bigint`;
}
