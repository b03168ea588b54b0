import { z } from 'zod';
import { expressionTextShape } from '../criteria';
import { idShape } from '../ids';
import type { Expression, ExpressionText } from '../expressions';
import {
  blanksAsNull,
  cast,
  checkExpression,
  evaluate,
  fieldsUsed,
  isNull,
  nodesOf,
  not,
  shift,
  smallSum,
  widen,
  withFields,
  wholeLiteral,
  yes,
} from '../expressions';
import type { Field, FieldId, FieldType } from '../fields';
import { date, fieldById, isDay, sameType, typeWord, whole } from '../fields';
import type { Binding } from '../parameters';
import type { Problem } from '../problem';
import { problem, refuse } from '../problem';
import type { CalculatedColumn, Column, Relation } from '../sql';
import { calculated, valueOf } from '../sql';
import type { Value } from '../values';
import { castValue, ofWhole } from '../values';
import { commonFor, converted } from './common-type';
import { rowOf } from './rows';
import type { Arriving, CheckContext, Rows } from './step';
import type { CheckedKey } from './figures';

/** Groups that stand also without rows: the values of each part, combined with those of every other part. */
export interface EveryGroup {
  readonly parts: readonly GroupPart[];
  /** What figures of a group without rows are; 0 where a figure adds up, and null elsewhere. */
  readonly filledWith: 'null' | '0';
}

/** Where the values of some keys come from. Keys of one part go together as they are found. */
export type GroupPart =
  | { readonly from: 'rows'; readonly keys: readonly string[] }
  /** What every day from one until another one, both included, gives. */
  | { readonly from: 'days'; readonly key: string; readonly since: ExpressionText; readonly until: ExpressionText }
  /** The same with the ends of a parameter that takes a range. */
  | { readonly from: 'range'; readonly key: string; readonly parameter: string }
  /** Every value of a field of what comes into another slot. */
  | { readonly from: 'step'; readonly key: string; readonly slot: number; readonly field: FieldId };

export const everyGroupShape: z.ZodType<EveryGroup> = z.strictObject({
  parts: z
    .array(
      z.discriminatedUnion('from', [
        z.strictObject({ from: z.literal('rows'), keys: z.array(idShape).max(100) }),
        z.strictObject({ from: z.literal('days'), key: idShape, since: expressionTextShape, until: expressionTextShape }),
        z.strictObject({ from: z.literal('range'), key: idShape, parameter: idShape }),
        z.strictObject({ from: z.literal('step'), key: idShape, slot: z.int().min(1).max(9), field: z.union([idShape, z.literal('')]) }),
      ]),
    )
    .max(100),
  filledWith: z.enum(['null', '0']),
});

export const keysOfPart = (part: GroupPart): readonly string[] => (part.from === 'rows' ? part.keys : [part.key]);

/** A part understood: the keys it gives values of, each with what it is grouped by. */
export type CheckedPart =
  | { readonly from: 'rows'; readonly keys: readonly CheckedKey[] }
  | {
      readonly from: 'days';
      readonly key: CheckedKey;
      /** What is grouped by, and the one day it is made of. */
      readonly expression: Expression;
      readonly day: { readonly id: FieldId; readonly type: Expression['type'] };
      readonly ends: { readonly since: Expression; readonly until: Expression } | { readonly parameter: string };
    }
  | { readonly from: 'step'; readonly key: CheckedKey; readonly slot: number; readonly field: Field };

/** More days than this make no groups. */
export const MOST_DAYS = 100_000;

interface Of {
  readonly id: string;
  readonly every?: EveryGroup | undefined;
}

/** The parts as typed ones; what none of them names goes together as it is found. */
export function checkEvery(
  step: Of,
  keys: readonly CheckedKey[],
  arriving: readonly Arriving[],
  context: Pick<CheckContext, 'parameters' | 'calendar' | 'budget'>,
): { readonly parts: readonly CheckedPart[]; readonly problems: readonly Problem[] } {
  const problems: Problem[] = [];
  if (!step.every) return { parts: [], problems };
  const named = new Set(step.every.parts.flatMap(keysOfPart));
  const keyOf = (id: string) => keys.find((each) => each.key.id === id && each.expression);
  const parts = step.every.parts.flatMap((part): readonly CheckedPart[] => {
    const wrong = (code: string, message: string, expected: string, key: string) => {
      problems.push(problem(code, message, { step: step.id, field: key }, expected));
      return [];
    };
    if (part.from === 'rows') {
      const own = part.keys.flatMap((id) => keyOf(id) ?? []);
      return own.length > 0 ? [{ from: 'rows', keys: own }] : [];
    }
    const key = keyOf(part.key);
    if (!key?.expression) return [];
    if (part.from === 'step') {
      const field = part.field === '' ? undefined : fieldById(arriving[part.slot]?.schema ?? { fields: [] }, part.field);
      if (!field)
        return wrong('group-values-missing', 'Nothing says yet whose values make these groups.', 'a field of the other step', part.key);
      if (!suits(key.expression, field))
        return wrong(
          'group-values-unsuited',
          `${field.name} is a ${typeWord(field.type)}, and the groups are of a ${typeWord(key.expression.type)}.`,
          'a field of the same type',
          part.key,
        );
      return [{ from: 'step', key, slot: part.slot, field }];
    }
    const day = dayOf(key.expression);
    if (!day)
      return wrong(
        'group-days-unsuited',
        'These groups are not made of one day, so no span of days makes them.',
        'a date, or a stretch of days',
        part.key,
      );
    if (part.from === 'range') {
      const parameter = context.parameters.find((each) => each.id === part.parameter);
      if (parameter?.takes !== 'range' || (parameter.type !== 'date' && parameter.type !== 'date-time'))
        return wrong(
          'group-range-missing',
          'No parameter that takes a range of days says which groups there are.',
          'such a parameter',
          part.key,
        );
      return [{ from: 'days', key, expression: key.expression, day, ends: { parameter: part.parameter } }];
    }
    const end = (text: ExpressionText, which: string) => {
      const read = checkExpression(text.text, { ...context, schema: { fields: [] }, refs: text.refs });
      if (text.text.trim() === '') wrong('group-end-missing', `The span has no ${which} day yet.`, 'a day, such as 2025-04-01', part.key);
      else problems.push(...read.problems.map((each) => ({ ...each, place: { ...each.place, step: step.id, field: part.key } })));
      if (read.expression && !isDay(read.expression.type))
        wrong(
          'group-end-unsuited',
          `The ${which} day is a ${typeWord(read.expression.type)} here.`,
          "a day, such as date '2025-04-01'",
          part.key,
        );
      return read.expression && isDay(read.expression.type) ? read.expression : undefined;
    };
    const [since, until] = [end(part.since, 'first'), end(part.until, 'last')];
    return since && until ? [{ from: 'days', key, expression: key.expression, day, ends: { since, until } }] : [];
  });
  const rest = keys.filter((each) => each.expression && !named.has(each.key.id));
  return { parts: rest.length > 0 ? [...parts, { from: 'rows', keys: rest }] : parts, problems };
}

function suits({ type }: Expression, field: Field): boolean {
  const common = commonFor(type, field.type);
  return common !== undefined && sameType(common, type);
}

/** The one day an expression is made of. */
function dayOf(expression: Expression): { readonly id: FieldId; readonly type: Expression['type'] } | undefined {
  const [id, ...others] = fieldsUsed(expression);
  if (id === undefined || others.length > 0) return undefined;
  const type = nodesOf(expression).find((each) => each.op === 'field')?.type;
  return type && isDay(type) ? { id, type } : undefined;
}

/** First day and number of days of a span. Throws a ProblemError for one that is open, turned round, or too long. */
function spanOf(part: CheckedPart & { from: 'days' }, step: string, binding: Binding): { readonly first: number; readonly days: number } {
  const [first, last] =
    'parameter' in part.ends
      ? rangeOf(part.ends.parameter, binding)
      : [part.ends.since, part.ends.until].map((each) => dayIn(each, binding));
  const place = { step, field: part.key.key.id };
  const called = part.key.key.name || 'these groups';
  if (typeof first !== 'number' || typeof last !== 'number')
    return refuse(
      'span-open',
      `The span of ${called} has no ${typeof first === 'number' ? 'last' : 'first'} day, so its groups cannot be told.`,
      place,
      'both ends',
    );
  if (last < first) return refuse('span-turned', `The span of ${called} ends before it begins.`, place, 'a last day not before the first');
  const days = last - first + 1;
  if (days > MOST_DAYS) refuse('span-long', `The span of ${called} has ${days} days.`, place, `at most ${MOST_DAYS}`);
  return { first, days };
}

function dayIn(expression: Expression, binding: Binding): number | undefined {
  const value = evaluate(blanksAsNull(expression, binding.blanks), rowOf(new Map(), binding));
  return value === null ? undefined : asDay(expression.type, value);
}

const asDay = (type: Expression['type'], value: Exclude<Value, null>): number | undefined => {
  const day = sameType(type, date) ? value : castValue(value, type, date);
  return typeof day === 'number' ? day : undefined;
};

function rangeOf(parameter: string, binding: Binding): readonly (number | undefined)[] {
  const bound = binding.bound.get(parameter);
  if (bound?.takes !== 'range') return [undefined, undefined];
  // Both ends are included; a moment lies within its day.
  return [bound.from, bound.until].map((each) => (each === null ? undefined : typeof each === 'number' ? each : dayOfMoment(each)));
}

const dayOfMoment = (value: Exclude<Value, null>): number | undefined => asDay({ kind: 'datetime' }, value);

/** A day in the type of the field it stands for. */
function asField(day: Expression, type: Expression['type']): Expression {
  if (sameType(type, date)) return day;
  const moment = widen(day, { kind: 'datetime' });
  return type.kind === 'datetime' ? moment : cast(moment, type);
}

/** Every combination of the parts' values, as rows of the keys alone. `grouped` are rows that have the keys already. */
export function everyGroup(
  step: string,
  parts: readonly CheckedPart[],
  grouped: Relation,
  inputs: readonly Relation[],
  binding: Binding,
): Relation | undefined {
  const relations = parts.flatMap((part): readonly Relation[] => {
    if (part.from === 'rows') {
      const keys = part.keys.flatMap(({ key, expression }) => (expression ? [{ id: key.id, name: key.name, type: expression.type }] : []));
      return [distinctOf(grouped, keys)];
    }
    if (part.from === 'step') {
      const input = inputs[part.slot];
      const { expression } = part.key;
      if (!input || !expression) return [];
      const column = keyColumn(part.key, converted(part.field, expression.type));
      const values: Relation = { node: 'calculate', input, kept: [], fields: [column] };
      return [distinctOf({ node: 'filter', input: values, condition: not(isNull(valueOf(column))) }, [column])];
    }
    return [daysOf(part, step, binding)];
  });
  return relations.reduce<Relation | undefined>(
    (left, right) => (left ? { node: 'join', left, right, on: yes, keeps: 'pairs' } : right),
    undefined,
  );
}

const keyColumn = ({ key }: CheckedKey, expression: Expression): CalculatedColumn => ({
  id: key.id,
  name: key.name,
  type: expression.type,
  expression,
});

/** What every day of the span gives, under another id than the key has in the rows. */
function daysOf(part: CheckedPart & { from: 'days' }, step: string, binding: Binding): Relation {
  const { first, days } = spanOf(part, step, binding);
  const number: Column = { id: `${part.key.key.id} number`, name: 'number', type: whole };
  const numbers: Relation = { node: 'numbers', count: days, column: number };
  const start: Expression = { op: 'literal', type: date, value: first };
  const day: CalculatedColumn = {
    id: `${part.key.key.id} day`,
    name: 'day',
    type: part.day.type,
    expression: asField(shift(start, smallSum('-', valueOf(number), wholeLiteral(1)), 'day'), part.day.type),
  };
  const all: Relation = { node: 'calculate', input: numbers, kept: [], fields: [day] };
  const given = withFields(blanksAsNull(part.expression, binding.blanks), new Map([[part.day.id, day.id]]));
  return distinctOf(calculated(all, [keyColumn(part.key, given)], undefined), [
    { id: part.key.key.id, name: part.key.key.name, type: given.type },
  ]);
}

const distinctOf = (input: Relation, columns: readonly Column[]): Relation => ({
  node: 'group',
  input,
  keys: columns.map(({ id, name, type }) => ({ id, name, type, expression: valueOf({ id, type }) })),
  counts: [],
});

/** The same in core: combinations of values by key. */
export function everyGroupRows(step: string, parts: readonly CheckedPart[], groups: Rows, inputs: readonly Rows[], binding: Binding): Rows {
  const lists = parts.map((part): Rows => {
    if (part.from === 'rows') return groups.map((row) => new Map(part.keys.map(({ key }) => [key.id, row.get(key.id) ?? null] as const)));
    const id = part.key.key.id;
    if (part.from === 'step') {
      const type = part.key.expression?.type ?? part.field.type;
      const given = (inputs[part.slot] ?? []).flatMap((row) => evaluate(converted(part.field, type), rowOf(row, binding)) ?? []);
      return given.map((value) => new Map([[id, value]]));
    }
    const { first, days } = spanOf(part, step, binding);
    return Array.from({ length: days }, (_each, at) => {
      const literal: Expression = { op: 'literal', type: date, value: first + at };
      const day = evaluate(asField(literal, part.day.type), rowOf(new Map(), binding));
      return new Map([[id, evaluate(blanksAsNull(part.expression, binding.blanks), rowOf(new Map([[part.day.id, day]]), binding))]]);
    });
  });
  const [first, ...rest] = lists;
  return rest.reduce<Rows>((left, right) => left.flatMap((a) => right.map((b) => new Map([...a, ...b]))), first ?? []);
}

/** A figure of a group without rows. */
export const filledFigure = (filledWith: EveryGroup['filledWith'], addsUp: boolean, type: FieldType): Value =>
  filledWith === '0' && addsUp ? (castValue(ofWhole(0n), whole, type) ?? null) : null;
