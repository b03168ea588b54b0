import type { Expression } from '../../expressions';
import { digitsOf, mayNotFit } from '../../expressions';
import type { FieldType } from '../../fields';
import { CLOCK_TEXT, DAY_TEXT, FLOAT_NUMBER, LONGEST_NUMBER, NO_WORDS, PLAIN_NUMBER, UTC, YES_WORDS } from '../../values';
import { guarded, once } from './once';
import { TYPE_NAMES } from './names';

/** The smallest magnitude that rounds up to infinity, and half the smallest floating number. */
const TOO_LARGE = '1.797693134862315807937e308';
const TOO_SMALL = '2.4703282292062328e-324';

const trimmed = (sql: string) => `btrim(${sql}, ' ')`;
const fits = (sql: string, pattern: string) => `${sql} collate "C" ~ '${pattern}'`;
const whole = (sql: string) =>
  once([sql], (x) => `case when ${x} between -9223372036854775808 and 9223372036854775807 then ${x}::bigint end`);

/** `cast` with Cendra's meaning: text is read by its shape before PostgreSQL converts it, so nothing can raise. */
export function castSql({ of: { type: from }, type: to }: Expression & { op: 'cast' }, of: string): string {
  if (to.kind === 'text') return textOf(from, of);
  if (from.kind === 'text') return fromText(to, of);
  switch (to.kind) {
    case 'decimal':
    case 'whole':
      return exactFrom(from, to, of);
    case 'instant':
      return `timezone('${to.zone ?? UTC}', ${of}::timestamp)`;
    default:
      return `${of}::${TYPE_NAMES[to.kind]}`;
  }
}

function textOf(from: FieldType, of: string): string {
  // Zero has no sign.
  if (from.kind === 'float') return `(${of} + 0)::text`;
  return from.kind === 'instant' ? `(timezone('UTC', ${of})::text || '+00')` : `${of}::text`;
}

/** A number in the digits of an exact type; null where they do not suffice. */
function exactFrom(from: FieldType, to: FieldType, of: string): string {
  const floating = from.kind === 'float';
  // The text of a floating number is its shortest; a direct cast would cut it to 15 digits.
  const exact = floating ? once([of], (x) => `case when abs(${x}) < 'Infinity' then ${x}::text::numeric end`) : of;
  if (to.kind === 'whole')
    return from.kind === 'whole' ? of : floating || mayNotFit(from, to) ? whole(`round(${exact})`) : `round(${exact})::bigint`;
  const digits = digitsOf(to) ?? { precision: 38, scale: 0 };
  const rounded = `round(${from.kind === 'whole' ? `${exact}::numeric` : exact}, ${digits.scale})`;
  return floating || mayNotFit(from, to) ? guarded(rounded, digits.precision - digits.scale) : rounded;
}

/** A number in a wider exact type, with that type's decimals shown. */
export function widenedNumber(from: FieldType, to: FieldType & { kind: 'decimal' }, of: string): string {
  if (to.open) return `${of}::numeric`;
  const exact = from.kind === 'whole' ? `${of}::numeric` : of;
  const same = from.kind === 'whole' ? to.scale === 0 : from.kind === 'decimal' && !from.open && from.scale === to.scale;
  const rounded = same ? exact : `round(${exact}, ${to.scale})`;
  return mayNotFit(from, to) ? guarded(rounded, to.precision - to.scale) : rounded;
}

function numberIn(of: string, pattern: string): string {
  return once([of], (x) => `case when char_length(${x}) <= ${LONGEST_NUMBER} and ${fits(x, pattern)} then ${trimmed(x)}::numeric end`);
}

function fromText(to: FieldType, of: string): string {
  const matching = (pattern: string) => numberIn(of, pattern);
  switch (to.kind) {
    case 'whole':
      // Nearly every text is a few digits, which needs no longer number on the way.
      return once(
        [of],
        (x) =>
          `case when octet_length(${x}) between 1 and 18 and translate(${x}, '0123456789', '') = '' then ${x}::bigint else ${whole(`round(${numberIn(x, PLAIN_NUMBER)})`)} end`,
      );
    case 'decimal':
      return guarded(`round(${matching(PLAIN_NUMBER)}, ${to.scale})`, to.precision - to.scale);
    case 'float':
      return once(
        [matching(FLOAT_NUMBER)],
        (x) => `case when abs(${x}) <= ${TOO_SMALL} then 0 when abs(${x}) < ${TOO_LARGE} then ${x}::double precision end`,
      );
    case 'yesno': {
      const words = (list: readonly string[]) => list.map((each) => `'${each}'`).join(', ');
      return once(
        [`lower(${trimmed(of)} collate "C")`],
        (x) => `case when ${x} in (${words(YES_WORDS)}) then true when ${x} in (${words(NO_WORDS)}) then false end`,
      );
    }
    case 'date':
      return once([match(of, DAY_TEXT)], (m) => day(m, 1));
    case 'time':
      return once([match(of, CLOCK_TEXT)], (m) => clock(m, 1));
    case 'datetime':
      return once(
        [match(of, `${DAY_TEXT}([ T]${CLOCK_TEXT})?`)],
        (m) => `${day(m, 1)} + case when ${m}[4] is null then time '00:00' else ${clock(m, 5)} end`,
      );
    default:
      return `${of}::${TYPE_NAMES[to.kind]}`;
  }
}

const match = (of: string, pattern: string) => `regexp_match(${of} collate "C", '^ *${pattern} *$')`;
const day = (m: string, at: number) => dayFrom(`${m}[${at}]::int`, `${m}[${at + 1}]::int`, `${m}[${at + 2}]::int`);

/** A day from its parts; PostgreSQL would raise where there is none. */
export function dayFrom(year: string, month: string, dayOfMonth: string): string {
  const leap = `(${year} % 4 = 0 and ${year} % 100 <> 0) or ${year} % 400 = 0`;
  const length = `case when ${month} in (4, 6, 9, 11) then 30 when ${month} <> 2 then 31 when ${leap} then 29 else 28 end`;
  const exists = `${year} between 1 and 9999 and ${month} between 1 and 12 and ${dayOfMonth} between 1 and ${length}`;
  return `case when ${exists} then make_date(${year}::int, ${month}::int, ${dayOfMonth}::int) end`;
}

/** Groups as CLOCK_TEXT makes them: hours, minutes, `:seconds`, seconds, fraction with its point. */
function clock(m: string, at: number): string {
  const seconds = `coalesce(${m}[${at + 3}] || coalesce(${m}[${at + 4}], ''), '0')::double precision`;
  const exists = `${m}[${at}]::int <= 23 and ${m}[${at + 1}]::int <= 59 and coalesce(${m}[${at + 3}], '0')::int <= 59`;
  return `case when ${exists} then make_time(${m}[${at}]::int, ${m}[${at + 1}]::int, ${seconds}) end`;
}
