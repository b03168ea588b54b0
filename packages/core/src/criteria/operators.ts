import type { FieldType, TypeKind } from '../fields';
import { yesno } from '../fields';
import type { Comparison, Expression } from '../expressions';
import { local, widen } from '../expressions';

export type OperandShape = 'none' | 'one' | 'several' | 'range';
export type OperatorFamily = 'text' | 'number' | 'day' | 'yesno' | 'other';

export interface Operator {
  readonly word: string;
  readonly families: readonly OperatorFamily[] | 'all';
  readonly takes: OperandShape;
  /** Rows whose field is null fail it although a reader might expect them: "and nulls" is offered. */
  readonly losesNulls?: true;
  build(field: Expression, operands: readonly Expression[]): Expression;
}

export function familyOf(type: FieldType): OperatorFamily {
  const families: Partial<Record<TypeKind, OperatorFamily>> = {
    text: 'text',
    whole: 'number',
    decimal: 'number',
    float: 'number',
    date: 'day',
    datetime: 'day',
    instant: 'day',
    yesno: 'yesno',
  };
  return families[type.kind] ?? 'other';
}

const not = (of: Expression): Expression => ({ op: 'not', type: yesno, of });
const isNull = (of: Expression): Expression => ({ op: 'isNull', type: yesno, of });
const both = (...items: Expression[]): Expression => ({ op: 'and', type: yesno, items });
const either = (...items: Expression[]): Expression => ({ op: 'or', type: yesno, items });

function compare(operator: Comparison, left: Expression, right: Expression): Expression {
  const floating = left.type.kind === 'float' || right.type.kind === 'float';
  if (floating)
    return { op: 'compare', type: yesno, operator, left: widen(left, { kind: 'float' }), right: widen(right, { kind: 'float' }) };
  return { op: 'compare', type: yesno, operator, left, right };
}

const comparing =
  (operator: Comparison) =>
  (field: Expression, [value]: readonly Expression[]) =>
    compare(operator, field, need(value));

function need(operand: Expression | undefined): Expression {
  if (!operand) throw new RangeError('the operand count was checked before');
  return operand;
}

function among(field: Expression, operands: readonly Expression[]): Expression {
  const [list] = operands;
  if (list?.op === 'inList') return { ...list, of: field };
  if (field.type.kind === 'float') return either(...operands.map((each) => compare('=', field, each)));
  return { op: 'in', type: yesno, of: field, items: operands };
}

const matching =
  (how: 'contains' | 'begins' | 'ends') =>
  (of: Expression, [part]: readonly Expression[]): Expression => ({ op: 'textMatch', type: yesno, how, of, part: need(part) });

/** Compares a day or date-time with the beginning of a day, or, for `wholeDay`, with the beginning of the day after. */
function compareDay(operator: Comparison, field: Expression, value: Expression, wholeDay: boolean): Expression {
  // Clocks show some hours twice; instants are compared as what they are.
  if (field.type.kind === 'instant' && value.type.kind === 'instant') return compare(operator, field, value);
  const left = local(field);
  if (left.type.kind === 'date') return compare(operator, value.type.kind === 'date' ? left : widen(left, value.type), value);
  const border: Expression = wholeDay && value.type.kind === 'date' ? { op: 'dayAfter', type: value.type, of: value } : value;
  return compare(operator, left, widen(border, left.type));
}

const isDayGrained = (field: Expression, value: Expression) => field.type.kind === 'date' || value.type.kind !== 'date';

const before = (field: Expression, value: Expression) => compareDay('<', field, value, false);
const from = (field: Expression, value: Expression) => compareDay('>=', field, value, false);
const until = (field: Expression, value: Expression) => compareDay(isDayGrained(field, value) ? '<=' : '<', field, value, true);
const after = (field: Expression, value: Expression) => compareDay(isDayGrained(field, value) ? '>' : '>=', field, value, true);

function on(field: Expression, value: Expression): Expression {
  return isDayGrained(field, value) ? compareDay('=', field, value, false) : both(from(field, value), until(field, value));
}

const day =
  (build: (field: Expression, value: Expression) => Expression) =>
  (field: Expression, [value]: readonly Expression[]) =>
    build(field, need(value));
const days =
  (build: (field: Expression, low: Expression, high: Expression) => Expression) =>
  (field: Expression, [low, high]: readonly Expression[]) =>
    build(field, need(low), need(high));

/** Every operator a condition can have, in the order they are offered. Words are those of the screen. */
export const OPERATORS: readonly Operator[] = [
  { word: 'is', families: ['text'], takes: 'one', build: comparing('=') },
  { word: 'is not', families: ['text'], takes: 'one', losesNulls: true, build: comparing('<>') },
  { word: 'equals', families: ['number'], takes: 'one', build: comparing('=') },
  { word: 'differs from', families: ['number'], takes: 'one', losesNulls: true, build: comparing('<>') },
  { word: 'at least', families: ['number'], takes: 'one', build: comparing('>=') },
  { word: 'at most', families: ['number'], takes: 'one', build: comparing('<=') },
  { word: 'above', families: ['number'], takes: 'one', build: comparing('>') },
  { word: 'below', families: ['number'], takes: 'one', build: comparing('<') },
  {
    word: 'from…to',
    families: ['number'],
    takes: 'range',
    build: days((of, low, high) => both(compare('>=', of, low), compare('<=', of, high))),
  },
  { word: 'on', families: ['day'], takes: 'one', build: day(on) },
  { word: 'not on', families: ['day'], takes: 'one', losesNulls: true, build: day((of, value) => not(on(of, value))) },
  { word: 'before', families: ['day'], takes: 'one', build: day(before) },
  { word: 'after', families: ['day'], takes: 'one', build: day(after) },
  { word: 'from', families: ['day'], takes: 'one', build: day(from) },
  { word: 'until', families: ['day'], takes: 'one', build: day(until) },
  { word: 'within', families: ['day'], takes: 'range', build: days((of, low, high) => both(from(of, low), until(of, high))) },
  {
    word: 'outside',
    families: ['number', 'day'],
    takes: 'range',
    // The opposite of within, so that a blank end asks for the opposite too.
    build: days((of, low, high) =>
      not(familyOf(of.type) === 'day' ? both(from(of, low), until(of, high)) : both(compare('>=', of, low), compare('<=', of, high))),
    ),
  },
  { word: 'one of', families: ['text', 'number'], takes: 'several', build: among },
  { word: 'none of', families: ['text', 'number'], takes: 'several', losesNulls: true, build: (of, operands) => not(among(of, operands)) },
  { word: 'contains', families: ['text'], takes: 'one', build: matching('contains') },
  { word: 'lacks', families: ['text'], takes: 'one', losesNulls: true, build: (of, operands) => not(matching('contains')(of, operands)) },
  { word: 'begins', families: ['text'], takes: 'one', build: matching('begins') },
  { word: 'ends', families: ['text'], takes: 'one', build: matching('ends') },
  { word: 'fits', families: ['text'], takes: 'one', build: (of, [pattern]) => ({ op: 'like', type: yesno, of, pattern: need(pattern) }) },
  {
    word: 'is empty',
    families: ['text'],
    takes: 'none',
    build: (of) => compare('=', of, { op: 'literal', type: { kind: 'text' }, value: '' }),
  },
  { word: 'is yes', families: ['yesno'], takes: 'none', build: (of) => of },
  { word: 'is no', families: ['yesno'], takes: 'none', build: (of) => not(of) },
  { word: 'is null', families: 'all', takes: 'none', build: isNull },
  { word: 'has a value', families: 'all', takes: 'none', build: (of) => not(isNull(of)) },
];

export function operatorsFor(type: FieldType): readonly Operator[] {
  const family = familyOf(type);
  return OPERATORS.filter((each) => each.families === 'all' || each.families.includes(family));
}

export function operatorByWord(word: string): Operator | undefined {
  return OPERATORS.find((each) => each.word === word);
}
