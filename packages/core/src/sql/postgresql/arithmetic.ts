import type { Expression } from '../../expressions';
import { digitsOf, mayOverflow, naturalScale } from '../../expressions';
import type { FieldType } from '../../fields';
import { formatDecimal } from '../../values';
import { divisor, finite, guarded, once } from './once';

/** Exact arithmetic within the digits of its type, floating arithmetic without infinities. */
export function arithmeticSql(node: Expression & { op: 'arithmetic' }, left: string, right: string): string {
  if (node.type.kind !== 'decimal') return plainFloating(node, left, right) ?? floating(node.operator, left, right);
  const { precision, scale } = node.type;
  const a = exact(node.left.type, left);
  const b = exact(node.right.type, right);
  const raw = node.operator === '/' ? quotient(node, a, b, scale) : `(${a} ${node.operator} ${b})`;
  const cut = node.operator !== '/' && naturalScale(node.operator, node.left.type, node.right.type) > scale;
  const fitted = cut ? `round(${raw}, ${scale})` : raw;
  return mayOverflow(node.operator, node.left.type, node.right.type) ? guarded(fitted, precision - scale) : fitted;
}

/** Whole numbers become numeric before calculating, which cannot overflow; open numbers take their scale. */
function exact(type: FieldType, sql: string): string {
  if (type.kind === 'whole') return `${sql}::numeric`;
  return type.kind === 'decimal' && type.open ? `round(${sql}, ${type.scale})` : sql;
}

/**
 * Rounds once. A quotient differs from a half at the scale it is rounded to by at least the reciprocal of twice the
 * divisor's digits there, so with that many more decimals an inexact one cannot look like a half.
 */
function quotient(node: Expression & { op: 'arithmetic' }, left: string, right: string, scale: number): string {
  const [a, b] = [digitsOf(node.left.type), digitsOf(node.right.type)];
  const { right: by } = node;
  const written = by.op === 'literal' && typeof by.value === 'object' && by.value !== null ? String(by.value.digits).length : b?.precision;
  const more = a && written !== undefined && scale >= a.scale ? written + 2 : 40;
  return `round(round(${left}, ${scale + more}) / ${divisor(by, right)}, ${scale})`;
}

/** A number that is written out, through its widening; undefined for anything that changes from row to row. */
function writtenNumber(node: Expression): number | undefined {
  if (node.op === 'widen') return writtenNumber(node.of);
  if (node.op !== 'literal' || node.value === null) return undefined;
  return Number(typeof node.value === 'object' ? formatDecimal(node.value) : node.value);
}

/**
 * Floating arithmetic with a written-out number of a common size: one comparison tells that nothing can go wrong,
 * and only where it does not the exact question is asked. Undefined where the number is of no such size.
 */
function plainFloating(node: Expression & { op: 'arithmetic' }, left: string, right: string): string | undefined {
  const { operator } = node;
  const first = writtenNumber(node.left) !== undefined && (operator === '+' || operator === '*');
  const number = writtenNumber(first ? node.left : node.right);
  const size = Math.abs(number ?? 0);
  const sum = operator === '+' || operator === '-';
  if (number === undefined || size > 1e100 || (!sum && (operator !== '*' || size < 1))) return undefined;
  return once([first ? right : left], (x) => {
    const [a, b] = first ? [left, x] : [x, right];
    return `case when abs(${x}) <= 1e200 then ${a} ${operator} ${b} else ${floating(operator, a, b)} end`;
  });
}

/** Powers of two, by which scaling a floating number is exact. */
const TWO = {
  512: '1.3407807929942597e154',
  '-512': '7.458340731200207e-155',
  500: '3.273390607896142e150',
  '-500': '3.054936363499605e-151',
  '-540': '2.778448436856347e-163',
  '-51': '4.440892098500626e-16',
} as const;

/**
 * PostgreSQL raises on floating overflow and underflow. Each guard asks whether the operation would, on
 * operands scaled by powers of two so that the question itself cannot raise; operands are written once.
 */
function floating(operator: string, left: string, right: string): string {
  const sum = `when abs(v.a) > 1e300 and abs(v.b) > 1e290 and abs(v.a / 2 ${operator} v.b / 2) > 8.98846567431158e307 then null`;
  const product = [
    `when abs(v.a) > 1 and abs(v.b) > 1 and abs((v.a * ${TWO['-512']}) * (v.b * ${TWO['-512']})) >= 1 then null`,
    `when abs(v.a) < ${TWO['-540']} and abs(v.b) < ${TWO['-540']} then 0`,
    `when abs(v.a) < 1 and abs(v.b) < 1 and v.a <> 0 and v.b <> 0 and abs((v.a * ${TWO[512]}) * (v.b * ${TWO[512]})) <= ${TWO['-51']} then 0`,
  ].join(' ');
  const ratio = [
    'when v.b = 0 then null',
    `when abs(v.a) > ${TWO[500]} and abs(v.b) < ${TWO['-540']} then null`,
    `when (abs(v.a) > ${TWO[500]} or abs(v.b) < ${TWO['-500']}) and abs(v.a) >= ${TWO['-500']} and abs(v.b) < 1 and abs((v.a * ${TWO['-512']}) / (v.b * ${TWO[512]})) >= 1 then null`,
    `when abs(v.a) < 1 and abs(v.b) > 1 and v.a <> 0 and abs((v.a * ${TWO[512]}) / (v.b * ${TWO['-512']})) <= ${TWO['-51']} then 0`,
  ].join(' ');
  const guard = operator === '*' ? product : operator === '/' ? ratio : sum;
  const value = `case ${guard} else v.a ${operator} v.b end`;
  return `(select ${finite(value)} from (select ${left} as a, ${right} as b offset 0) v)`;
}
