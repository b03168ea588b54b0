import type { Expression } from '../../expressions';
import type { FieldType } from '../../fields';
import { CLOCK_TEXT, DAY_TEXT, FLOAT_NUMBER, LONGEST_NUMBER, NO_WORDS, PLAIN_NUMBER, UTC, YES_WORDS } from '../../values';
import { duckdbTypeName } from './names';
import { finite, once } from './once';

const trimmed = (sql: string) => `trim(${sql}, ' ')`;

/** `cast` with Cendra's meaning: text is read by its shape before DuckDB converts it. */
export function castSql({ of: { type: from }, type: to }: Expression & { op: 'cast' }, of: string): string {
  const type = duckdbTypeName(to);
  if (to.kind === 'text') return textOf(from, of);
  if (from.kind === 'text') return fromText(to, of);
  if (from.kind === 'float' && to.kind !== 'float') {
    const text = plainText(of);
    return to.kind === 'whole' ? `try_cast(try_cast(${text} as decimal(38,0)) as bigint)` : `try_cast(${text} as ${type})`;
  }
  if (to.kind === 'instant') return `timezone('${to.zone ?? UTC}', cast(${of} as timestamp))`;
  return `try_cast(${of} as ${type})`;
}

/** The digits of a floating number without an exponent, because DuckDB misreads exponents when it makes decimals. */
function plainText(of: string): string {
  const written = once([of], (x) => `case when isfinite(${x}) then cast(${x} as varchar) end`);
  return once([written], (t) => {
    const parts = [`regexp_replace(split_part(${t}, 'e', 1), '[.-]', '', 'g')`, `cast(split_part(${t}, 'e', 2) as integer)`];
    const plain = once([...parts, t], (digits, exponent, text) => {
      const sign = `case when ${text} like '-%' then '-' else '' end`;
      const small = `'0.' || repeat('0', least(-${exponent}, 60) - 1) || ${digits}`;
      const large = `${digits} || repeat('0', ${exponent} - length(${digits}) + 1)`;
      return `${sign} || case when ${exponent} < 0 then ${small} else ${large} end`;
    });
    return `case when contains(${t}, 'e') then ${plain} else ${t} end`;
  });
}

function textOf(from: FieldType, of: string): string {
  if (from.kind === 'instant') return `(cast(timezone('UTC', ${of}) as varchar) || '+00')`;
  return from.kind === 'float' ? floatText(of) : `cast(${of} as varchar)`;
}

/** DuckDB writes whole floating numbers with `.0` and, below 1e16, without an exponent. Zero has no sign. */
function floatText(of: string): string {
  return once([of, `cast(${of} + 0 as varchar)`], (x, t) => {
    const mantissa = `replace(left(${t}, length(${t}) - 2), '-', '')`;
    const large = `case when ${x} < 0 then '-' else '' end || rtrim(rtrim(left(${mantissa}, 1) || '.' || substring(${mantissa}, 2), '0'), '.') || 'e+15'`;
    return [
      `case when isnan(${x}) then 'NaN' when isinf(${x}) then case when ${x} > 0 then 'Infinity' else '-Infinity' end`,
      `when abs(${x}) >= 1e15::double and abs(${x}) < 1e16::double then ${large}`,
      `when ${t} like '%.0' then left(${t}, length(${t}) - 2) else ${t} end`,
    ].join(' ');
  });
}

function fromText(to: FieldType, of: string): string {
  const number = (pattern: string) =>
    once(
      [of],
      (x) => `case when length(${x}) <= ${LONGEST_NUMBER} and regexp_matches(${x}, '${pattern}') then ltrim(${trimmed(x)}, '+') end`,
    );
  switch (to.kind) {
    case 'whole':
      return `try_cast(try_cast(${number(PLAIN_NUMBER)} as decimal(38,0)) as bigint)`;
    case 'float':
      return finite(`try_cast(${number(FLOAT_NUMBER)} as double)`);
    case 'yesno': {
      const words = (list: readonly string[]) => list.map((each) => `'${each}'`).join(', ');
      return once([`translate(${trimmed(of)}, 'ABCDEFGHIJKLMNOPQRSTUVWXYZ', 'abcdefghijklmnopqrstuvwxyz')`], (x) => {
        return `case when ${x} in (${words(YES_WORDS)}) then true when ${x} in (${words(NO_WORDS)}) then false end`;
      });
    }
    case 'date':
      return parsed(of, DAY_TEXT, 3, (m) => day(m, 1));
    case 'time':
      return parsed(of, CLOCK_TEXT, 5, (m) => clock(m, 1));
    case 'datetime':
      return parsed(of, `${DAY_TEXT}([ T]${CLOCK_TEXT})?`, 9, (m) => {
        const time = `case when ${m}[4] = '' then time '00:00:00' else ${clock(m, 5)} end`;
        return `${day(m, 1)} + ${time}`;
      });
    default:
      return `try_cast(${number(PLAIN_NUMBER)} as ${duckdbTypeName(to)})`;
  }
}

/** The groups of a pattern as a list of texts, empty where a group is not there; null where the text does not fit. */
function parsed(of: string, pattern: string, groups: number, write: (m: string) => string): string {
  const whole = `^ *${pattern} *$`;
  const list = (x: string) => Array.from({ length: groups }, (_, index) => `regexp_extract(${x}, '${whole}', ${index + 1})`).join(', ');
  return once([once([of], (x) => `case when regexp_matches(${x}, '${whole}') then [${list(x)}] end`)], write);
}

const int = (sql: string) => `cast(${sql} as bigint)`;
const day = (m: string, at: number) => `(${dayFrom(int(`${m}[${at}]`), int(`${m}[${at + 1}]`), int(`${m}[${at + 2}]`))})`;

/** A day from its parts; DuckDB would raise where there is none. */
export function dayFrom(year: string, month: string, dayOfMonth: string): string {
  const leap = `(${year} % 4 = 0 and ${year} % 100 <> 0) or ${year} % 400 = 0`;
  const length = `case when ${month} in (4, 6, 9, 11) then 30 when ${month} <> 2 then 31 when ${leap} then 29 else 28 end`;
  const exists = `${year} between 1 and 9999 and ${month} between 1 and 12 and ${dayOfMonth} between 1 and ${length}`;
  return `case when ${exists} then make_date(${year}, ${month}, ${dayOfMonth}) end`;
}

/** Groups as CLOCK_TEXT makes them: hours, minutes, `:seconds`, seconds, fraction with its point. */
function clock(m: string, at: number): string {
  const seconds = `coalesce(nullif(${m}[${at + 3}], ''), '0')`;
  const exists = `${int(`${m}[${at}]`)} <= 23 and ${int(`${m}[${at + 1}]`)} <= 59 and ${int(seconds)} <= 59`;
  return `case when ${exists} then make_time(${int(`${m}[${at}]`)}, ${int(`${m}[${at + 1}]`)}, cast(${seconds} || ${m}[${at + 4}] as double)) end`;
}
