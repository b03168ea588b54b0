import type { FieldType } from '../fields';
import { formatDate, formatDatetime, formatTime, parseDate, parseDatetime, parseInstant, parseTime } from './calendar';
import type { Decimal } from './decimal';
import { compareDecimals, fitsDigits, formatDecimal, parseDecimal, rescale } from './decimal';
import { floatText } from './float-text';

/**
 * A value in core. Which form it has follows from its static type: text and JSON are strings, whole
 * numbers and decimals are `Decimal`, floating numbers are `number`, a date is a day count, a time and
 * a date-time are microseconds (bigint), yes/no is boolean. Null is null in every type.
 */
export type Value = null | string | number | bigint | boolean | Decimal;

export type Read = { readonly ok: true; readonly value: Value } | { readonly ok: false; readonly expected: string };

/** The value a text of the wire stands for; null where there is no text, or it is none of the type. */
export function valueOfWire(type: FieldType, text: string | null): Value {
  const read = text === null ? undefined : readValue(type, text);
  return read?.ok ? read.value : null;
}

const MAX_WHOLE = 2n ** 63n - 1n;

const YES = new Set(['true', 't', 'yes', 'y', '1']);
const NO = new Set(['false', 'f', 'no', 'n', '0']);

const ok = (value: Value | undefined, expected: string): Read => (value === undefined ? { ok: false, expected } : { ok: true, value });

/** Reads the wire form of a value; says what is expected when the text is no value of the type. */
export function readValue(type: FieldType, source: string): Read {
  switch (type.kind) {
    case 'text':
    case 'json':
      return source.includes('\u0000') ? { ok: false, expected: 'text without the zero character' } : { ok: true, value: source };
    case 'whole':
      return ok(readWhole(source), 'a whole number, such as 12');
    case 'decimal':
      return ok(
        type.open ? parseDecimal(source) : readDecimal(source, type.precision, type.scale),
        decimalWords(type.scale, type.open === true),
      );
    case 'float':
      return ok(readFloat(source), 'a number, such as 12.5');
    case 'yesno':
      return ok(readYesNo(source), 'yes or no');
    case 'date':
      return ok(parseDate(source), 'a date, written 2025-04-30');
    case 'time':
      return ok(parseTime(source), 'a time, written 14:30');
    case 'datetime':
      return ok(parseDatetime(source), 'a date and time, written 2025-04-30 14:30');
    case 'instant':
      return ok(parseInstant(source), 'a date and time with its offset, written 2025-04-30 14:30+00');
  }
}

const decimalWords = (scale: number, open: boolean) =>
  open ? 'a number, such as 12.5' : `a number with at most ${scale} decimals, such as 12.5`;

function readWhole(source: string): Decimal | undefined {
  const value = parseDecimal(source);
  if (!value) return undefined;
  const cut = rescale(value, 0);
  return compareDecimals(cut, value) === 0 && cut.digits <= MAX_WHOLE && cut.digits >= -MAX_WHOLE - 1n ? cut : undefined;
}

function readDecimal(source: string, precision: number, scale: number): Decimal | undefined {
  const value = parseDecimal(source);
  if (!value) return undefined;
  const fitted = rescale(value, scale);
  return compareDecimals(fitted, value) === 0 && fitsDigits(fitted, precision) ? fitted : undefined;
}

function readFloat(source: string): number | undefined {
  const trimmed = source.trim();
  if (trimmed === 'NaN') return Number.NaN;
  if (/^-?Infinity$/.test(trimmed)) return trimmed.startsWith('-') ? -Infinity : Infinity;
  const value = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(trimmed) ? Number(trimmed) : Number.NaN;
  // What is too large for a floating number is none, not infinity.
  return Number.isFinite(value) ? value : undefined;
}

function readYesNo(source: string): boolean | undefined {
  const word = source.trim().toLowerCase();
  return YES.has(word) ? true : NO.has(word) ? false : undefined;
}

/** The wire form: exact digits, ISO dates, `true`/`false`. Reading it back gives the same value. */
export function writeValue(type: FieldType, value: Exclude<Value, null>): string {
  switch (type.kind) {
    case 'whole':
    case 'decimal':
      return formatDecimal(value as Decimal);
    case 'date':
      return formatDate(value as number);
    case 'time':
      return formatTime(value as bigint);
    case 'datetime':
      return formatDatetime(value as bigint);
    case 'instant':
      return `${formatDatetime(value as bigint)}+00`;
    case 'float':
      return floatText(value as number);
    default:
      return String(value);
  }
}

/** By code point, as a binary collation of UTF-8 orders text; UTF-16 order differs above U+FFFF. */
export function compareText(a: string, b: string): number {
  const length = Math.min(a.length, b.length);
  for (let index = 0; index < length; index++) {
    const x = a.charCodeAt(index);
    const y = b.charCodeAt(index);
    if (x !== y) return surrogateLast(x) - surrogateLast(y);
  }
  return a.length - b.length;
}

/** Lifts surrogates above the rest of the basic plane, which makes code-unit order code-point order. */
const surrogateLast = (unit: number) => (unit >= 0xd800 && unit <= 0xdfff ? unit + 0x10000 : unit);

/** Order of two non-null values of one type: negative, zero or positive. NaN equals itself and is above all numbers. */
export function compareValues(type: FieldType, a: Exclude<Value, null>, b: Exclude<Value, null>): number {
  switch (type.kind) {
    case 'text':
    case 'json':
      return compareText(a as string, b as string);
    case 'whole':
    case 'decimal':
      return compareDecimals(a as Decimal, b as Decimal);
    case 'float':
      return compareFloats(a as number, b as number);
    default:
      return a < b ? -1 : a > b ? 1 : 0;
  }
}

function compareFloats(a: number, b: number): number {
  if (Number.isNaN(a) || Number.isNaN(b)) return Number(Number.isNaN(a)) - Number(Number.isNaN(b));
  return a < b ? -1 : a > b ? 1 : 0;
}
