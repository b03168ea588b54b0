import type { FieldType } from '../fields';
import { date, datetime, decimal, isNumber, MAX_DIGITS, OPEN_SCALE, sameType, text, whole, yesno } from '../fields';
import type { ExtractUnit, ShiftUnit } from '../values';
import { fitsDigits, ofWhole, rescale } from '../values';
import type { Expression, Primitive } from './expression';
import { arithmeticType } from './rules';
import type { Arithmetic, Comparison } from './tree';

/** Small makers of typed nodes, for functions that are defined by others. */

/** Nulls take the type of what they meet; alone they are text. */
export const NULL: Expression = { op: 'literal', type: text, value: null };
export const isNullLiteral = (node: Expression): boolean => node.op === 'literal' && node.value === null;

export function widen(node: Expression, type: FieldType): Expression {
  if (isNullLiteral(node)) return { op: 'literal', type, value: null };
  return sameType(node.type, type) ? node : (widerLiteral(node, type) ?? { op: 'widen', type, of: node });
}

/** A number that is written out, in the digits of a wider exact type. */
function widerLiteral(node: Expression, type: FieldType): Expression | undefined {
  if (node.op !== 'literal' || type.kind !== 'decimal' || type.open || typeof node.value !== 'object' || node.value === null)
    return undefined;
  const value = rescale(node.value, type.scale);
  return node.value.scale <= type.scale && fitsDigits(value, type.precision) ? { op: 'literal', type, value } : undefined;
}

export const textLiteral = (value: string): Expression => ({ op: 'literal', type: text, value });
export const wholeLiteral = (value: number | bigint): Expression => ({ op: 'literal', type: whole, value: ofWhole(BigInt(value)) });
export const yes: Expression = { op: 'literal', type: yesno, value: true };
const no: Expression = { op: 'literal', type: yesno, value: false };

export const call = (name: Primitive, type: FieldType, ...of: readonly Expression[]): Expression => ({ op: 'call', type, name, of });
/** Days, times and date-times of an instant are those of its zone; its text is not. */
export function cast(of: Expression, type: FieldType): Expression {
  const from = type.kind === 'text' || type.kind === 'instant' ? of : local(of);
  return sameType(from.type, type) ? from : { op: 'cast', type, of: from };
}
/** A value in a type it has in common with others: a number keeps all its digits, other values are written anew. */
export const inType = (of: Expression, type: FieldType): Expression =>
  isNumber(of.type) && isNumber(type) ? widen(of, type) : cast(of, type);

export function arithmetic(operator: Arithmetic, left: Expression, right: Expression): Expression {
  const type = arithmeticType(operator, left.type, right.type);
  if (!type) throw new RangeError('only numbers are calculated with');
  return { op: 'arithmetic', type, operator, left, right };
}

export const compare = (operator: Comparison, left: Expression, right: Expression): Expression => ({
  op: 'compare',
  type: yesno,
  operator,
  left,
  right,
});
export const isNull = (of: Expression): Expression => ({ op: 'isNull', type: yesno, of });
export const isTrue = (of: Expression): Expression => ({ op: 'isTrue', type: yesno, of });
export const not = (of: Expression): Expression => ({ op: 'not', type: yesno, of });
export const all = (...items: readonly Expression[]): Expression => ({ op: 'and', type: yesno, items });
/** All conditions as one; of none, what always holds. */
export const conjunction = (items: readonly Expression[]): Expression => (items.length > 1 ? all(...items) : (items[0] ?? yes));
/** Any of the conditions as one; of none, what never holds. */
export const disjunction = (items: readonly Expression[]): Expression => (items.length > 1 ? either(...items) : (items[0] ?? no));
export const either = (...items: readonly Expression[]): Expression => ({ op: 'or', type: yesno, items });

/** `case when … then … else … end` with the type of its first outcome. */
export const when = (condition: Expression, then: Expression, otherwise: Expression): Expression => ({
  op: 'case',
  type: then.type,
  branches: [{ when: condition, then }],
  otherwise,
});

/** Arithmetic of whole numbers that are known to be small, such as parts of a date. */
export const smallSum = (operator: '+' | '-' | '*', left: Expression, right: Expression): Expression =>
  call(({ '+': 'addSmall', '-': 'subtractSmall', '*': 'multiplySmall' } as const)[operator], whole, left, right);

/** Arithmetic of any whole numbers that gives a whole number again, or fails. */
export const wholeSum = (operator: '+' | '-' | '*', left: Expression, right: Expression): Expression =>
  cast(arithmetic(operator, left, right), whole);

export const extract = (unit: ExtractUnit, of: Expression): Expression => ({
  op: 'call',
  type: unit === 'second' ? decimal(8, 6) : whole,
  name: 'extract',
  unit,
  of: [of],
});

export const shift = (of: Expression, amount: Expression, unit: ShiftUnit): Expression => ({
  op: 'call',
  type: of.type,
  name: 'shift',
  unit,
  of: [of, amount],
});

export const concat = (...items: readonly Expression[]): Expression => {
  const [first = textLiteral(''), ...rest] = items;
  return rest.reduce((left, right) => call('concat', text, left, right), first);
};

/** A number whose source column fixes no scale, brought to the scale arithmetic uses. */
export const closed = (node: Expression): Expression =>
  node.type.kind === 'decimal' && node.type.open ? cast(node, decimal(MAX_DIGITS, OPEN_SCALE)) : node;

/** An instant as the date-time clocks of its zone show; other days as they are. */
export const local = (node: Expression): Expression => (node.type.kind === 'instant' ? widen(node, datetime) : node);

export const asDate = (node: Expression): Expression => cast(node, date);
