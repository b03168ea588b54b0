import type { FieldType } from '../fields';
import { DAY_MICROS, floorDivide, formatDate, formatDatetime, formatTime } from './calendar';
import { dayOf } from './dates';
import type { Decimal } from './decimal';
import { fitsDigits, formatDecimal, parseDecimal, rescale } from './decimal';
import type { Value } from './value';
import { instantOf, localOf } from './zones';
import { floatText } from './float-text';

/**
 * `cast` as the expression language means it. Total: what is no value of the type is undefined, which the
 * evaluator gives as null. Text is read with U+0020 blanks around it; numbers round half away from zero.
 */
export function castValue(value: Exclude<Value, null>, from: FieldType, to: FieldType): Value | undefined {
  if (to.kind === 'text') return textOf(value, from);
  if (from.kind === 'text' || from.kind === 'json') return fromText(String(value), to);
  switch (to.kind) {
    case 'whole':
    case 'decimal':
      return exactNumber(value, to);
    case 'float':
      return typeof value === 'number' ? value : Number(formatDecimal(value as Decimal));
    case 'date':
    case 'time':
    case 'datetime':
    case 'instant':
      return moment(value, from, to);
    default:
      return value;
  }
}

/** The text of a value, the same as its wire form; floating numbers with exponents from 1e15 on and below 1e-4. */
function textOf(value: Exclude<Value, null>, from: FieldType): string {
  switch (from.kind) {
    case 'whole':
    case 'decimal':
      return formatDecimal(value as Decimal);
    case 'float':
      return floatText(value as number);
    case 'date':
      return formatDate(value as number);
    case 'time':
      return formatTime(value as bigint);
    case 'datetime':
      return formatDatetime(value as bigint);
    case 'instant':
      return `${formatDatetime(value as bigint)}+00`;
    default:
      return String(value);
  }
}

const MAX_WHOLE = 2n ** 63n - 1n;

function exactNumber(value: Exclude<Value, null>, to: FieldType): Decimal | undefined {
  // A floating number counts with its shortest digits, not with its binary expansion.
  const exact = typeof value === 'number' ? parseDecimal(floatText(value)) : (value as Decimal);
  return exact && fitted(exact, to);
}

function fitted(value: Decimal, to: FieldType): Decimal | undefined {
  if (to.kind === 'decimal') {
    const scaled = rescale(value, to.scale);
    return fitsDigits(scaled, to.precision) ? scaled : undefined;
  }
  const cut = rescale(value, 0);
  return cut.digits <= MAX_WHOLE && cut.digits >= -MAX_WHOLE - 1n ? cut : undefined;
}

function moment(value: Exclude<Value, null>, from: FieldType, to: FieldType): Value {
  const micros =
    from.kind === 'date'
      ? BigInt(value as number) * DAY_MICROS
      : from.kind === 'instant'
        ? localOf(value as bigint, from.zone)
        : (value as bigint);
  if (to.kind === 'instant') return instantOf(micros, to.zone);
  const day = floorDivide(micros, DAY_MICROS);
  if (to.kind === 'date') return Number(day);
  return to.kind === 'time' ? (from.kind === 'time' ? micros : micros - day * DAY_MICROS) : micros;
}

export const PLAIN_NUMBER = '^ *[+-]?([0-9]+[.]?[0-9]*|[.][0-9]+) *$';
export const FLOAT_NUMBER = '^ *[+-]?([0-9]+[.]?[0-9]*|[.][0-9]+)([eE][+-]?[0-9]{1,4})? *$';
export const DAY_TEXT = '([0-9]{4})-([0-9]{1,2})-([0-9]{1,2})';
export const CLOCK_TEXT = '([0-9]{1,2}):([0-9]{2})(:([0-9]{2})([.][0-9]{1,6})?)?';
export const YES_WORDS = ['true', 't', 'yes', 'y', '1'] as const;
export const NO_WORDS = ['false', 'f', 'no', 'n', '0'] as const;

/** A longer text is no number, whatever it says: engines have limits of their own far above any number of 38 digits. */
export const LONGEST_NUMBER = 1_000;

const plainNumber = new RegExp(PLAIN_NUMBER);
const floatNumber = new RegExp(FLOAT_NUMBER);
const dayText = new RegExp(`^ *${DAY_TEXT} *$`);
const clockText = new RegExp(`^ *${CLOCK_TEXT} *$`);
const datetimeText = new RegExp(`^ *${DAY_TEXT}([ T]${CLOCK_TEXT})? *$`);

function fromText(text: string, to: FieldType): Value | undefined {
  switch (to.kind) {
    case 'whole':
    case 'decimal': {
      const value = text.length <= LONGEST_NUMBER && plainNumber.test(text) ? parseDecimal(text) : undefined;
      return value && fitted(value, to);
    }
    case 'float':
      return text.length <= LONGEST_NUMBER && floatNumber.test(text) ? finite(Number(text)) : undefined;
    case 'yesno':
      return yesnoOf(text);
    case 'date': {
      const match = dayText.exec(text);
      return match ? dayFrom(match, 1) : undefined;
    }
    case 'time': {
      const match = clockText.exec(text);
      return match ? clockFrom(match, 1) : undefined;
    }
    case 'datetime': {
      const match = datetimeText.exec(text);
      const day = match && dayFrom(match, 1);
      const clock = match?.[4] === undefined ? 0n : clockFrom(match, 5);
      return day === undefined || day === null || clock === undefined ? undefined : BigInt(day) * DAY_MICROS + clock;
    }
    default:
      return undefined;
  }
}

const finite = (value: number) => (Number.isFinite(value) ? value : undefined);

function yesnoOf(text: string): boolean | undefined {
  const word = text.replace(/^ +| +$/g, '').replace(/[A-Z]/g, (char) => char.toLowerCase());
  if ((YES_WORDS as readonly string[]).includes(word)) return true;
  return (NO_WORDS as readonly string[]).includes(word) ? false : undefined;
}

const dayFrom = (match: RegExpExecArray, at: number) =>
  dayOf(BigInt(match[at] ?? '0'), BigInt(match[at + 1] ?? '0'), BigInt(match[at + 2] ?? '0'));

/** Groups as CLOCK_TEXT makes them: hours, minutes, `:seconds`, seconds, fraction with its point. */
function clockFrom(match: RegExpExecArray, at: number): bigint | undefined {
  const [hours, minutes, seconds] = [match[at], match[at + 1], match[at + 3]].map((each) => Number(each ?? '0')) as [
    number,
    number,
    number,
  ];
  if (hours > 23 || minutes > 59 || seconds > 59) return undefined;
  const fraction = (match[at + 4] ?? '.').slice(1).padEnd(6, '0');
  return BigInt((hours * 60 + minutes) * 60 + seconds) * 1_000_000n + BigInt(fraction);
}
