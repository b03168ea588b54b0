import { date, datetime, isDay, whole } from '../fields';
import type { ShiftUnit } from '../values';
import { arithmetic, call, cast, local, shift, widen, wholeLiteral } from './build';
import type { Checking } from './checking';
import { article } from './checking';
import type { Expression } from './expression';
import type { Tree } from './tree';

const UNITS: Readonly<Record<string, readonly [number, ShiftUnit]>> = {
  year: [12, 'month'],
  quarter: [3, 'month'],
  month: [1, 'month'],
  week: [7, 'day'],
  day: [1, 'day'],
  hour: [1, 'hour'],
  minute: [1, 'minute'],
  second: [1, 'second'],
};

interface Interval {
  readonly amount: Expression;
  readonly unit: ShiftUnit;
}

/** Whether a tree stands for a length of time: an interval, one times a number, or one with a sign. */
export function isInterval(tree: Tree): boolean {
  if (tree.node === 'interval') return true;
  if (tree.node === 'negate') return isInterval(tree.of);
  return tree.node === 'arithmetic' && tree.operator === '*' && (isInterval(tree.left) || isInterval(tree.right));
}

function intervalOf(checking: Checking, tree: Tree): Interval | undefined {
  if (tree.node === 'interval') {
    const unit = Object.hasOwn(UNITS, tree.unit) ? UNITS[tree.unit] : undefined;
    if (!unit || !/^[+-]?\d{1,9}$/.test(tree.amount))
      return checking.fail(
        'interval-unreadable',
        'This is no length of time.',
        tree,
        `for example interval '3' day; the units are ${Object.keys(UNITS).join(', ')}`,
      );
    return { amount: wholeLiteral(BigInt(tree.amount) * BigInt(unit[0])), unit: unit[1] };
  }
  if (tree.node === 'negate') {
    const of = intervalOf(checking, tree.of);
    return of && { ...of, amount: times(of.amount, wholeLiteral(-1)) };
  }
  if (tree.node !== 'arithmetic') return undefined;
  const [length, factor] = isInterval(tree.left) ? [tree.left, tree.right] : [tree.right, tree.left];
  const of = intervalOf(checking, length);
  const count = checking.check(factor);
  if (!of || !count) return undefined;
  if (count.type.kind !== 'whole')
    return checking.fail(
      'type-mixed',
      `An interval is taken a whole number of times, and this is ${article(count.type)}.`,
      factor,
      'a whole number, such as cast(… as integer)',
    );
  return { ...of, amount: times(count, of.amount) };
}

const times = (a: Expression, b: Expression) => cast(arithmetic('*', a, b), whole);

/** `date + interval`, `date - interval`, `date - date`; undefined with a problem when neither fits. */
export function dayArithmetic(checking: Checking, tree: Tree & { node: 'arithmetic' }): Expression | undefined {
  const { operator } = tree;
  if (isInterval(tree.left) && operator === '+') return moved(checking, tree.right, tree.left, '+');
  if (isInterval(tree.right) && (operator === '+' || operator === '-')) return moved(checking, tree.left, tree.right, operator);
  return checking.fail(
    'interval-misplaced',
    'An interval is added to a date or subtracted from one.',
    tree,
    "for example picked_on + interval '3' day",
  );
}

function moved(checking: Checking, dayTree: Tree, length: Tree, operator: '+' | '-'): Expression | undefined {
  const day = checking.check(dayTree);
  const interval = intervalOf(checking, length);
  if (!day || !interval) return undefined;
  if (!isDay(day.type))
    return checking.fail(
      'type-mixed',
      `An interval is added to a date, and this is ${article(day.type)}.`,
      dayTree,
      'a date or a date-time',
    );
  const amount = operator === '+' ? interval.amount : times(interval.amount, wholeLiteral(-1));
  const whole = interval.unit === 'day' || interval.unit === 'month';
  return shift(whole ? local(day) : widen(local(day), datetime), amount, interval.unit);
}

/** Days from one date to another; undefined when the operator does not suit two dates. */
export function dayDifference(
  checking: Checking,
  tree: Tree & { node: 'arithmetic' },
  left: Expression,
  right: Expression,
): Expression | undefined {
  if (tree.operator === '-' && isDay(left.type) && isDay(right.type)) {
    const type = left.type.kind === 'date' && right.type.kind === 'date' ? date : datetime;
    return call('daysBetween', whole, widen(local(right), type), widen(local(left), type));
  }
  const at = isDay(left.type) ? tree.right : tree.left;
  return checking.fail('type-mixed', `“${tree.operator}” does not suit a date.`, at, "an interval, such as picked_on + interval '3' day");
}
