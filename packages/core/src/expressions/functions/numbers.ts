import type { FieldType } from '../../fields';
import { decimal, float, MAX_DIGITS, whole } from '../../fields';
import { call, cast, closed, widen } from '../build';
import type { Expression } from '../expression';
import { digitsOf } from '../rules';
import type { FunctionSpec, Operands } from './spec';

const toWhole = (type: FieldType): FieldType => {
  if (type.kind !== 'decimal') return type;
  return decimal(Math.min(MAX_DIGITS, type.precision - type.scale + 1), 0);
};

function rounded(operands: Operands): Expression | undefined {
  const number = operands.number(0);
  const places = operands.count > 1 ? operands.writtenWhole(1, 'how many decimals') : 0;
  if (!number || places === undefined) return undefined;
  if (places < -MAX_DIGITS || places > MAX_DIGITS)
    return operands.fail('operand-range', 'A number is rounded to at most 38 decimals.', 1, 'a whole number from -38 to 38');
  const of = closed(number);
  if (of.type.kind === 'float') {
    if (places === 0) return call('round', float, of);
    return operands.fail(
      'operand-unsuited',
      'A floating number has no decimals of its own, so it is rounded to whole numbers only.',
      0,
      `a decimal, such as cast(… as decimal(18,${Math.max(0, places)}))`,
    );
  }
  const digits = digitsOf(of.type);
  if (!digits || places >= digits.scale) return of;
  const scale = Math.max(0, places);
  const type = decimal(Math.min(MAX_DIGITS, digits.precision - digits.scale + 1 + scale), scale);
  return call('round', type, cast(of, decimal(digits.precision, digits.scale)), {
    op: 'literal',
    type: whole,
    value: { digits: BigInt(places), scale: 0 },
  });
}

const ofWholes =
  (name: 'floor' | 'ceiling') =>
  (operands: Operands): Expression | undefined => {
    const number = operands.number(0);
    if (!number || number.type.kind === 'whole') return number;
    const of = closed(number);
    return call(name, toWhole(of.type), of);
  };

function remainder(operands: Operands): Expression | undefined {
  const [left, right] = [operands.number(0), operands.number(1)];
  if (!left || !right) return undefined;
  const [a, b] = [closed(left), closed(right)];
  const [da, db] = [digitsOf(a.type), digitsOf(b.type)];
  if (!da || !db)
    return operands.fail('operand-unsuited', 'A remainder is taken of exact numbers.', da ? 1 : 0, 'a whole number or a decimal');
  if (a.type.kind === 'whole' && b.type.kind === 'whole') return call('mod', whole, a, b);
  const scale = Math.max(da.scale, db.scale);
  const wholeDigits = Math.min(da.precision - da.scale, db.precision - db.scale);
  return call('mod', decimal(Math.max(1, Math.min(MAX_DIGITS, wholeDigits + scale)), scale), a, b);
}

const floating = (operands: Operands, index: number): Expression | undefined => {
  const number = operands.number(index);
  return number && widen(number, float);
};

const extreme =
  (name: 'greatest' | 'least') =>
  (operands: Operands): Expression | undefined => {
    const items = operands.alike(0);
    const [first] = items ?? [];
    if (!items || !first) return undefined;
    if (first.type.kind === 'json') return operands.fail('operand-unsuited', 'JSON has no order.', 0, 'numbers, texts or dates');
    return items.length === 1 ? first : call(name, first.type, ...items);
  };

export const NUMBERS: readonly FunctionSpec[] = [
  {
    name: 'abs',
    group: 'numbers',
    signature: 'abs(number)',
    says: 'the number without its sign',
    least: 1,
    most: 1,
    build: (operands) => {
      const number = operands.number(0);
      const of = number && closed(number);
      return of && call('abs', of.type.kind === 'whole' ? decimal(19, 0) : of.type, of);
    },
  },
  {
    name: 'mod',
    group: 'numbers',
    signature: 'mod(number, divisor)',
    says: 'what is left after dividing, with the sign of the number',
    least: 2,
    most: 2,
    build: remainder,
  },
  {
    name: 'floor',
    group: 'numbers',
    signature: 'floor(number)',
    says: 'the next whole number below',
    least: 1,
    most: 1,
    build: ofWholes('floor'),
  },
  {
    name: 'ceiling',
    group: 'numbers',
    signature: 'ceiling(number)',
    says: 'the next whole number above',
    least: 1,
    most: 1,
    build: ofWholes('ceiling'),
  },
  {
    name: 'round',
    group: 'numbers',
    signature: 'round(number, decimals)',
    says: 'the number with fewer decimals, halves away from zero; below zero decimals to tens, hundreds',
    least: 1,
    most: 2,
    build: rounded,
  },
  {
    name: 'power',
    group: 'numbers',
    signature: 'power(base, exponent)',
    says: 'the base to the exponent, a floating number',
    least: 2,
    most: 2,
    build: (operands) => {
      const [base, exponent] = [floating(operands, 0), floating(operands, 1)];
      return base && exponent && call('power', float, base, exponent);
    },
  },
  {
    name: 'sqrt',
    group: 'numbers',
    signature: 'sqrt(number)',
    says: 'the square root, a floating number',
    least: 1,
    most: 1,
    build: (operands) => {
      const of = floating(operands, 0);
      return of && call('sqrt', float, of);
    },
  },
  {
    name: 'greatest',
    group: 'numbers',
    signature: 'greatest(a, b, …)',
    says: 'the largest of them; null when one is null',
    least: 1,
    most: 100,
    build: extreme('greatest'),
  },
  {
    name: 'least',
    group: 'numbers',
    signature: 'least(a, b, …)',
    says: 'the smallest of them; null when one is null',
    least: 1,
    most: 100,
    build: extreme('least'),
  },
];
