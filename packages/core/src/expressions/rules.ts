import type { FieldType } from '../fields';
import { decimal, float, isNumber, isOpen, MAX_DIGITS, OPEN_SCALE, sameType } from '../fields';
import type { Arithmetic } from './tree';

/** The least scale a quotient has, and the scale that survives when digits run out. */
const MIN_SCALE = 6;
const WHOLE_DIGITS = 19;

interface Digits {
  readonly precision: number;
  readonly scale: number;
}

/** A number's digits: a whole number counts as 19 digits without decimals. Undefined for floating and other types. */
export function digitsOf(type: FieldType): Digits | undefined {
  if (type.kind === 'whole') return { precision: WHOLE_DIGITS, scale: 0 };
  return type.kind === 'decimal' ? { precision: type.precision, scale: type.scale } : undefined;
}

/**
 * The decimal rule table. `+ −` keep the larger scale, `×` adds scales, `÷` has the larger scale but
 * at least 6; integer digits grow as needed. Beyond 38 digits the scale is cut first (not below 6, or
 * below what it was), and what still does not fit is a failure at run time.
 */
export function arithmeticType(operator: Arithmetic, left: FieldType, right: FieldType): FieldType | undefined {
  if (!isNumber(left) || !isNumber(right)) return undefined;
  const a = digitsOf(left);
  const b = digitsOf(right);
  if (!a || !b) return float;
  const wholeA = a.precision - a.scale;
  const wholeB = b.precision - b.scale;
  switch (operator) {
    case '+':
    case '-': {
      const scale = Math.max(a.scale, b.scale);
      return capped(Math.max(wholeA, wholeB) + 1, scale);
    }
    case '*':
      return capped(wholeA + wholeB, a.scale + b.scale);
    case '/': {
      const scale = Math.max(a.scale, b.scale, MIN_SCALE);
      return capped(wholeA + b.scale, scale);
    }
  }
}

function capped(wholeDigits: number, scale: number): FieldType {
  if (wholeDigits + scale <= MAX_DIGITS) return decimal(Math.max(1, wholeDigits + scale), scale);
  const kept = Math.max(MAX_DIGITS - wholeDigits, Math.min(scale, MIN_SCALE));
  return decimal(MAX_DIGITS, kept);
}

/** The scale an exact sum or product has by itself, before digits run out. */
export function naturalScale(operator: '+' | '-' | '*', left: FieldType, right: FieldType): number {
  const [a, b] = [digitsOf(left)?.scale ?? 0, digitsOf(right)?.scale ?? 0];
  return operator === '*' ? a + b : Math.max(a, b);
}

/** The type of a sum of many numbers: their scale in all the digits there are. */
export const sumType = (type: FieldType): FieldType =>
  type.kind === 'float' ? float : decimal(MAX_DIGITS, type.kind === 'decimal' ? type.scale : 0);

/** Whether the digits of a result can run over, so that generated SQL has to guard against it. */
export function mayOverflow(operator: Arithmetic, left: FieldType, right: FieldType): boolean {
  const a = digitsOf(left);
  const b = digitsOf(right);
  const result = arithmeticType(operator, left, right);
  if (!a || !b || !result || result.kind !== 'decimal') return false;
  // A number without a fixed scale has as many digits as it likes.
  if (isOpen(left) || isOpen(right)) return true;
  const needed =
    operator === '*'
      ? a.precision - a.scale + b.precision - b.scale
      : operator === '/'
        ? a.precision - a.scale + b.scale
        : Math.max(a.precision - a.scale, b.precision - b.scale) + 1;
  return needed > result.precision - result.scale;
}

/** Whether a number of one exact type can have more integer digits than another has. */
export function mayNotFit(from: FieldType, to: FieldType): boolean {
  const a = digitsOf(from);
  const b = to.kind === 'whole' ? { precision: WHOLE_DIGITS - 1, scale: 0 } : digitsOf(to);
  if (!a || !b || (to.kind === 'decimal' && to.open) || (from.kind === 'whole' && to.kind === 'whole')) return false;
  if (isOpen(from)) return true;
  // Dropping decimals can round up into one more digit.
  return a.precision - a.scale + (a.scale > b.scale ? 1 : 0) > b.precision - b.scale;
}

/** The type two values are compared in: undefined when they cannot be. */
export function commonType(left: FieldType, right: FieldType): FieldType | undefined {
  if (sameType(left, right)) return left;
  if (isNumber(left) && isNumber(right)) return commonNumber(left, right);
  const kinds = new Set([left.kind, right.kind]);
  if (kinds.has('date') && kinds.has('datetime')) return { kind: 'datetime' };
  return left.kind === right.kind ? left : undefined;
}

function commonNumber(left: FieldType, right: FieldType): FieldType {
  const a = digitsOf(left);
  const b = digitsOf(right);
  if (!a || !b) return float;
  if (isOpen(left) || isOpen(right)) {
    return { kind: 'decimal', precision: MAX_DIGITS, scale: OPEN_SCALE, open: true };
  }
  const scale = Math.max(a.scale, b.scale);
  return decimal(Math.min(MAX_DIGITS, Math.max(a.precision - a.scale, b.precision - b.scale) + scale), scale);
}
