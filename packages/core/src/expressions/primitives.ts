import type { Decimal, ExtractUnit, ShiftUnit, TrimSide, Value } from '../values';
import {
  charLength,
  compareValues,
  DAY_MICROS,
  dayOf,
  fitsDigits,
  floorDivide,
  formatDecimal,
  groupDigits,
  lowerCase,
  negateDecimal,
  ofWhole,
  padZeros,
  partOfClock,
  partOfDay,
  positionOf,
  pow10,
  replaceText,
  rescale,
  shiftDatetime,
  shiftDay,
  substring,
  trimText,
  upperCase,
} from '../values';
import type { Call, Primitive } from './expression';

type Present = Exclude<Value, null>;
type Evaluate = (values: readonly Present[], node: Call) => Value | undefined;

const str = (value: Present | undefined) => String(value);
const int = (value: Present | undefined) => (value as Decimal).digits;
const wholeValue = (value: bigint | number): Decimal => ofWhole(BigInt(value));
const trimming =
  (side: TrimSide): Evaluate =>
  ([of, char]) =>
    trimText(str(of), str(char), side);

/** What each operation gives for operands that are all there; undefined where it cannot be computed. */
const OPERATIONS: Record<Exclude<Primitive, 'joinText' | 'pick'>, Evaluate> = {
  concat: ([a, b]) => str(a) + str(b),
  charLength: ([of]) => wholeValue(charLength(str(of))),
  upper: ([of]) => upperCase(str(of)),
  lower: ([of]) => lowerCase(str(of)),
  substring: ([of, from, length]) => substring(str(of), int(from), length === undefined ? undefined : int(length)),
  position: ([sought, of]) => wholeValue(positionOf(str(sought), str(of))),
  trimBoth: trimming('both'),
  trimLeading: trimming('leading'),
  trimTrailing: trimming('trailing'),
  replace: ([of, from, to]) => replaceText(str(of), str(from), str(to)),
  padZeros: ([of, length]) => padZeros(str(of), Number(int(length))),
  groupDigits: ([of, size, sign]) => groupDigits(str(of), Number(int(size)), str(sign)),
  captured: ([of, pattern, group]) => captured(str(of), str(pattern), Number(int(group))),
  abs: ([of]) => (typeof of === 'number' ? finite(Math.abs(of)) : absolute(of as Decimal)),
  mod: ([a, b]) => remainder(a as Decimal, b as Decimal),
  floor: ([of], { type }) => (typeof of === 'number' ? finite(Math.floor(of)) : towards(of as Decimal, -1n, type)),
  ceiling: ([of], { type }) => (typeof of === 'number' ? finite(Math.ceil(of)) : towards(of as Decimal, 1n, type)),
  round: ([of, places], { type }) => (typeof of === 'number' ? roundFloat(of) : roundTo(of as Decimal, Number(int(places)), type)),
  power: ([base, exponent]) => power(base as number, exponent as number),
  sqrt: ([of]) => ((of as number) >= 0 ? finite(Math.sqrt(of as number)) : undefined),
  greatest: (values, { type }) => values.reduce((best, each) => (compareValues(type, each, best) > 0 ? each : best)),
  least: (values, { type }) => values.reduce((best, each) => (compareValues(type, each, best) < 0 ? each : best)),
  extract: ([of], node) => extract(of as Present, node),
  shift: ([of, amount], { unit }) =>
    typeof of === 'bigint'
      ? shiftDatetime(of, int(amount), unit as ShiftUnit)
      : shiftDay(of as number, int(amount), unit as 'day' | 'month'),
  daysBetween: ([start, end]) => daysBetween(start as Present, end as Present),
  dayOf: ([year, month, day]) => dayOf(int(year), int(month), int(day)),
  addSmall: ([a, b]) => wholeValue(int(a) + int(b)),
  subtractSmall: ([a, b]) => wholeValue(int(a) - int(b)),
  multiplySmall: ([a, b]) => wholeValue(int(a) * int(b)),
};

/** Null where an operand is null or the operation cannot be computed; joined text and picked items skip nulls. */
export function callPrimitive(node: Call, values: readonly Value[]): Value {
  if (node.name === 'joinText') return joinText(values);
  if (node.name === 'pick') return pick(values);
  const present = values.filter((each): each is Present => each !== null);
  if (present.length < values.length) return null;
  return OPERATIONS[node.name](present, node) ?? null;
}

function joinText([separator, ...items]: readonly Value[]): Value {
  const present = items.filter((each) => each !== null);
  return separator === null || separator === undefined || present.length === 0 ? null : present.map(String).join(String(separator));
}

function pick([index, ...items]: readonly Value[]): Value {
  return index === null ? null : (items[Number((index as Decimal).digits) - 1] ?? null);
}

const expressions = new Map<string, RegExp>();

function captured(text: string, pattern: string, group: number): string | undefined {
  const known = expressions.get(pattern) ?? new RegExp(pattern);
  if (expressions.size < 1_000) expressions.set(pattern, known);
  return known.exec(text)?.[group];
}

const absolute = (value: Decimal): Decimal => (value.digits < 0n ? negateDecimal(value) : value);

/** With the sign of the dividend. */
function remainder(a: Decimal, b: Decimal): Decimal | undefined {
  const scale = Math.max(a.scale, b.scale);
  const divisor = rescale(b, scale).digits;
  return divisor === 0n ? undefined : { digits: rescale(a, scale).digits % divisor, scale };
}

function towards(value: Decimal, direction: 1n | -1n, type: Call['type']): Decimal | undefined {
  const step = pow10(value.scale);
  const floor = floorDivide(value.digits, step);
  const digits = direction > 0n && floor * step !== value.digits ? floor + 1n : floor;
  return fitting({ digits, scale: 0 }, type);
}

/** Below zero decimals to tens, hundreds; halves away from zero. */
function roundTo(value: Decimal, places: number, type: Call['type']): Decimal | undefined {
  if (places >= 0) return fitting(rescale(value, places), type);
  const tens = rescale({ digits: value.digits, scale: value.scale - places }, 0);
  return fitting({ digits: tens.digits * pow10(-places), scale: 0 }, type);
}

const fitting = (value: Decimal, type: Call['type']) => (type.kind === 'decimal' && !fitsDigits(value, type.precision) ? undefined : value);

const finite = (value: number) => (Number.isFinite(value) ? value : undefined);

function roundFloat(value: number): number | undefined {
  const cut = Math.trunc(value);
  return finite(Math.abs(value - cut) >= 0.5 ? cut + Math.sign(value) : cut);
}

/** Natural logarithm of the largest and of the smallest result; beyond them a power is a failure, or zero. */
export const LARGEST_LOG = 709.78;
export const SMALLEST_LOG = -708;

function power(base: number, exponent: number): number | undefined {
  if (!Number.isFinite(base) || !Number.isFinite(exponent)) return undefined;
  if (exponent === 0) return 1;
  if (base === 0) return exponent < 0 ? undefined : 0;
  if (base < 0 && exponent !== Math.floor(exponent)) return undefined;
  if (Math.abs(exponent) < 1e-290) return 1;
  const size = (exponent / 1024) * Math.log(Math.abs(base));
  if (size > LARGEST_LOG / 1024) return undefined;
  return size < SMALLEST_LOG / 1024 ? 0 : base ** exponent;
}

function extract(of: Present, { unit, of: [operand] }: Call): Value {
  const part = unit as ExtractUnit;
  const clock = part === 'hour' || part === 'minute' || part === 'second';
  const micros = typeof of === 'bigint' ? of : BigInt(of as number) * DAY_MICROS;
  const day = operand?.type.kind === 'time' ? 0n : floorDivide(micros, DAY_MICROS);
  if (!clock) return wholeValue(partOfDay(Number(day), part));
  const value = partOfClock(micros - day * DAY_MICROS, part);
  return part === 'second' ? { digits: value, scale: 6 } : ofWhole(value);
}

/** Whole days from start to end, rounded down. */
function daysBetween(start: Present, end: Present): Decimal {
  if (typeof start === 'number') return wholeValue((end as number) - start);
  return ofWhole(floorDivide((end as bigint) - (start as bigint), DAY_MICROS));
}

/** The text a decimal is compared by where equal numbers may have different scales. */
export const plainDigits = (value: Decimal): string =>
  formatDecimal(value)
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '');
