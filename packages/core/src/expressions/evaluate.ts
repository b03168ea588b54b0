import type { FieldType } from '../fields';
import { dayOfMoment, resolveRelativeDay } from '../parameters';
import type { Decimal, Value } from '../values';
import {
  addDecimals,
  castValue,
  compareValues,
  DAY_MICROS,
  divideDecimals,
  fitsDigits,
  floorDivide,
  formatDecimal,
  likeMatches,
  localOf,
  multiplyDecimals,
  negateDecimal,
  rescale,
} from '../values';
import type { Expression, Window } from './expression';
import { callPrimitive } from './primitives';
import type { Arithmetic, Comparison } from './tree';

/** What an expression is evaluated against: one row and the bound parameter values. */
export interface Row {
  field(id: string): Value;
  parameter(id: string, part?: 'from' | 'until'): Value;
  list(id: string): readonly Value[];
  /** The moment of the run, in microseconds of UTC since 1970. */
  readonly now: bigint;
  /** Whether the source of a field keeps something there that fits no type; left out where rows are known to have values alone. */
  misfit?(id: string): boolean;
  /** The value of a window in this row; computed beforehand over all rows. */
  window(node: Window): Value;
  /** Values of parts in this row, filled as they are worked out: expressions that functions write out have the same part many times. */
  readonly known?: Map<Expression, Value>;
}

/**
 * The value of an expression on one row. Total: what cannot be computed (overflow, division by zero)
 * is null. Yes/no follows three-valued logic. This is the reference every engine is compared with.
 */
export function evaluate(node: Expression, row: Row): Value {
  const { known } = row;
  if (known === undefined || node.op === 'literal' || node.op === 'field') return valueIn(node, row);
  const found = known.get(node);
  if (found !== undefined) return found;
  const value = valueIn(node, row);
  known.set(node, value);
  return value;
}

function valueIn(node: Expression, row: Row): Value {
  switch (node.op) {
    case 'literal':
      return node.value;
    case 'field':
      return row.field(node.id);
    case 'parameter':
      return row.parameter(node.id, node.part);
    case 'widen':
      return widenValue(evaluate(node.of, row), node.of.type, node.type);
    case 'negate':
      return negateValue(evaluate(node.of, row));
    case 'arithmetic':
      return calculate(node.operator, node.type, node.left.type, evaluate(node.left, row), node.right.type, evaluate(node.right, row));
    case 'compare':
      return compareNullable(
        node.operator,
        comparedType(node.left.type, node.right.type),
        evaluate(node.left, row),
        evaluate(node.right, row),
      );
    case 'and':
      return settle(node.items, row, false);
    case 'or':
      return settle(node.items, row, true);
    case 'not': {
      const of = evaluate(node.of, row);
      return of === null ? null : !of;
    }
    case 'isNull':
      return evaluate(node.of, row) === null;
    case 'isTrue':
      return evaluate(node.of, row) === true;
    case 'misfit':
      return row.misfit?.(node.of.id) ?? false;
    case 'dayAfter': {
      const of = evaluate(node.of, row);
      return of === null ? null : (of as number) + 1;
    }
    case 'textMatch':
      return textMatch(node.how, evaluate(node.of, row), evaluate(node.part, row));
    case 'in':
      return member(
        comparedType(node.of.type, node.items[0]?.type ?? node.of.type),
        evaluate(node.of, row),
        node.items.map((item) => evaluate(item, row)),
      );
    case 'inList':
      return member(
        node.of.type,
        evaluate(node.of, row),
        row.list(node.id).map((item) => widenValue(item, node.listType, node.of.type)),
      );
    case 'like':
      return like(evaluate(node.of, row), evaluate(node.pattern, row), node.escape);
    case 'now':
      return nowValue(node, row.now);
    case 'relativeDay':
      return resolveRelativeDay(node.day, dayOfMoment(row.now, node.calendar), node.calendar) ?? null;
    case 'case': {
      const taken = node.branches.find((branch) => evaluate(branch.when, row) === true);
      return evaluate(taken?.then ?? node.otherwise, row);
    }
    case 'coalesce': {
      for (const item of node.items) {
        const value = evaluate(item, row);
        if (value !== null) return value;
      }
      return null;
    }
    case 'cast': {
      const of = evaluate(node.of, row);
      return of === null ? null : (castValue(of, node.of.type, node.type) ?? null);
    }
    case 'call':
      return callPrimitive(
        node,
        node.of.map((of) => evaluate(of, row)),
      );
    case 'window':
      return row.window(node);
  }
}

/** What a word for the current date or time means at a moment, as clocks of its zone show it. */
export function nowValue({ word, zone }: Expression & { op: 'now' }, moment: bigint): Exclude<Value, null> {
  if (word === 'current_timestamp') return moment;
  const now = localOf(moment, zone);
  const day = floorDivide(now, DAY_MICROS);
  if (word === 'current_date') return Number(day);
  return word === 'current_time' || word === 'localtime' ? now - day * DAY_MICROS : now;
}

/** Whether a condition keeps the row: unknown does not. */
export function holds(node: Expression, row: Row): boolean {
  return evaluate(node, row) === true;
}

const comparedType = (left: FieldType, right: FieldType): FieldType => (left.kind === 'whole' ? right : left);

/** `and` is decided by the first false, `or` by the first true; a null leaves it open. */
function settle(items: readonly Expression[], row: Row, deciding: boolean): Value {
  let open = false;
  for (const item of items) {
    const value = evaluate(item, row);
    if (value === deciding) return deciding;
    if (value === null) open = true;
  }
  return open ? null : !deciding;
}

function compareNullable(operator: Comparison, type: FieldType, left: Value, right: Value): Value {
  if (left === null || right === null) return null;
  const order = compareValues(type, left, right);
  switch (operator) {
    case '=':
      return order === 0;
    case '<>':
      return order !== 0;
    case '<':
      return order < 0;
    case '<=':
      return order <= 0;
    case '>':
      return order > 0;
    case '>=':
      return order >= 0;
  }
}

function member(type: FieldType, of: Value, items: readonly Value[]): Value {
  if (items.length === 0) return false;
  if (of === null) return null;
  if (items.some((item) => item !== null && compareValues(type, of, item) === 0)) return true;
  return items.includes(null) ? null : false;
}

function widenValue(value: Value, from: FieldType, to: FieldType): Value {
  if (value === null) return null;
  if (to.kind === 'float' && typeof value === 'object') return Number(formatDecimal(value));
  if (to.kind === 'decimal' && typeof value === 'object') return to.open ? value : fitted(value, to);
  if (to.kind === 'datetime' && from.kind === 'date') return BigInt(value as number) * DAY_MICROS;
  if (to.kind === 'datetime' && from.kind === 'instant') return localOf(value as bigint, from.zone);
  return value;
}

function negateValue(value: Value): Value {
  if (value === null) return null;
  if (typeof value === 'object') return negateDecimal(value);
  return Number.isFinite(value as number) ? -(value as number) : null;
}

function calculate(operator: Arithmetic, type: FieldType, leftType: FieldType, left: Value, rightType: FieldType, right: Value): Value {
  if (left === null || right === null) return null;
  if (type.kind === 'float') return calculateFloat(operator, left as number, right as number);
  if (type.kind !== 'decimal') return null;
  const result = calculateDecimal(operator, type.scale, closed(leftType, left as Decimal), closed(rightType, right as Decimal));
  return result === undefined ? null : fitted(result, type);
}

/** A number of a source column without a fixed scale enters arithmetic rounded to the open scale. */
function closed(type: FieldType, value: Decimal): Decimal {
  return type.kind === 'decimal' && type.open ? rescale(value, type.scale) : value;
}

function calculateDecimal(operator: Arithmetic, scale: number, left: Decimal, right: Decimal): Decimal | undefined {
  switch (operator) {
    case '+':
      return addDecimals(left, right);
    case '-':
      return addDecimals(left, negateDecimal(right));
    case '*':
      return multiplyDecimals(left, right);
    case '/':
      return divideDecimals(left, right, scale);
  }
}

/** A floating result that is not a finite number is a failure, also where an operand was infinite already. */
function calculateFloat(operator: Arithmetic, left: number, right: number): Value {
  const result = operator === '+' ? left + right : operator === '-' ? left - right : operator === '*' ? left * right : left / right;
  return Number.isFinite(result) ? result : null;
}

function fitted(value: Decimal, type: FieldType & { kind: 'decimal' }): Decimal | null {
  const scaled = rescale(value, type.scale);
  return fitsDigits(scaled, type.precision) ? scaled : null;
}

function textMatch(how: 'contains' | 'begins' | 'ends', of: Value, part: Value): Value {
  if (of === null || part === null) return null;
  const [text, sought] = [String(of), String(part)];
  return how === 'contains' ? text.includes(sought) : how === 'begins' ? text.startsWith(sought) : text.endsWith(sought);
}

function like(of: Value, pattern: Value, escape: string | undefined): Value {
  if (of === null || pattern === null) return null;
  return likeMatches(String(of), String(pattern), escape);
}
