import { z } from 'zod';
import { idShape } from '../ids';
import { expressionTextShape } from '../criteria';
import type { Expression, ExpressionText } from '../expressions';
import { arithmeticType, checkCondition, checkExpression, fieldsUsed } from '../expressions';
import type { Field, FieldType, Schema } from '../fields';
import { decimal, fieldById, float, isDay, isNumber, MAX_DIGITS, recogniseRole, text, typeWord, whole } from '../fields';
import type { Problem } from '../problem';
import { problem, warning } from '../problem';
import type { Arriving, CheckContext } from './step';

/** What many values are told by. `rows` counts rows, `count` rows with a value, `distinct count` different values. */
export const SUMMARY_AGGREGATES = [
  'rows',
  'count',
  'distinct count',
  'sum',
  'average',
  'least',
  'greatest',
  'median',
  'first',
  'last',
  'joined',
  'share',
] as const;
export type SummaryAggregate = (typeof SUMMARY_AGGREGATES)[number];

/** What rows are grouped by: a field or an expression. */
export interface SummaryKey {
  readonly id: string;
  readonly name: string;
  readonly expression: ExpressionText;
}

/** A figure of each group. */
export interface SummaryValue {
  readonly id: string;
  readonly name: string;
  readonly aggregate: SummaryAggregate;
  /** Of what; nothing for `rows`, a condition for `share`. */
  readonly expression: ExpressionText;
  /** Only among the rows where this holds; empty for all. */
  readonly among: ExpressionText;
  /** By what `first`, `last` and `joined` are told; else empty. Texts are joined in their own order where it is empty. */
  readonly order: ExpressionText;
  /** What stands between joined texts; a comma and a blank where it is left out. */
  readonly separator?: string;
}

export const separatorOf = ({ separator }: Pick<SummaryValue, 'separator'>): string => separator ?? ', ';

export const summaryKeyShape: z.ZodType<SummaryKey> = z.strictObject({
  id: idShape,
  name: z.string().max(200),
  expression: expressionTextShape,
});
export const summaryValueShape: z.ZodType<SummaryValue> = z.strictObject({
  id: idShape,
  name: z.string().max(200),
  aggregate: z.enum(SUMMARY_AGGREGATES),
  expression: expressionTextShape,
  among: expressionTextShape,
  order: expressionTextShape,
  separator: z.string().max(20).optional(),
}) as z.ZodType<SummaryValue>;

export interface CheckedKey {
  readonly key: SummaryKey;
  readonly expression?: Expression;
}

export interface CheckedValue {
  readonly value: SummaryValue;
  readonly type?: FieldType;
  readonly of?: Expression;
  readonly among?: Expression;
  readonly order?: Expression;
}

/** Keys and figures as typed ones. */
export interface SummaryParts {
  readonly keys: readonly CheckedKey[];
  readonly values: readonly CheckedValue[];
}

interface Parts {
  readonly id: string;
  readonly keys: readonly SummaryKey[];
  readonly values: readonly SummaryValue[];
}

type Context = Pick<CheckContext, 'parameters' | 'calendar' | 'budget' | 'sheet'>;

/** Keys and figures as typed expressions over what arrives, the fields they give, and what is wrong with them. */
export function checkSummary(step: Parts, { schema, grain }: Arriving, context: Context) {
  const scope = { ...context, schema, withoutOtherRows: 'A summary looks at one row at a time, and this is computed over other rows.' };
  const problems: Problem[] = [];
  const at = (item: string, found: readonly Problem[]) =>
    problems.push(...found.map((each) => ({ ...each, place: { ...each.place, step: step.id, field: item } })));
  const names = new Set<string>();
  const named = ({ id, name }: { readonly id: string; readonly name: string }) => {
    if (name.trim() === '') at(id, [problem('name-missing', 'This has no name yet.', {}, 'a name, such as kilos')]);
    else if (names.has(name)) at(id, [problem('name-taken', `There are two fields called ${name}.`, {}, 'a name of its own')]);
    names.add(name);
  };
  const read = (item: string, source: ExpressionText, condition: boolean): Expression | undefined => {
    const checked = (condition ? checkCondition : checkExpression)(source.text, { ...scope, refs: source.refs });
    at(item, checked.problems);
    return checked.expression;
  };
  const keys = step.keys.map((key): CheckedKey => {
    named(key);
    if (key.expression.text.trim() === '') {
      at(key.id, [problem('key-missing', 'Nothing says yet what rows are grouped by here.', {}, 'a field, or an expression')]);
      return { key };
    }
    const expression = read(key.id, key.expression, false);
    if (expression?.type.kind === 'json') {
      at(key.id, [problem('key-unsuited', 'Rows are not grouped by JSON.', {}, 'a field of another type')]);
      return { key };
    }
    return expression ? { key, expression } : { key };
  });
  const values = step.values.map((value): CheckedValue => {
    named(value);
    const among = value.among.text.trim() === '' ? undefined : read(value.id, value.among, true);
    if (value.aggregate === 'rows') return { value, type: whole, ...(among ? { among } : {}) };
    if (value.expression.text.trim() === '') {
      at(value.id, [problem('value-missing', `Nothing says yet of what the ${value.aggregate} is.`, {}, 'a field, or an expression')]);
      return { value };
    }
    const of = read(value.id, value.expression, value.aggregate === 'share');
    const placed = value.aggregate === 'first' || value.aggregate === 'last';
    const ordered = placed || value.aggregate === 'joined';
    if (placed && value.order.text.trim() === '')
      at(value.id, [problem('order-missing', `Nothing says by what the ${value.aggregate} is told.`, {}, 'a field to order by')]);
    const order = ordered && value.order.text.trim() !== '' ? read(value.id, value.order, false) : undefined;
    if (!of) return { value };
    const type = aggregated(value.aggregate, of.type);
    if (!type) {
      at(value.id, [
        problem('aggregate-unsuited', `There is no ${value.aggregate} of a ${typeWord(of.type)}.`, {}, 'another figure, or another field'),
      ]);
      return { value };
    }
    return { value, type, of, ...(among ? { among } : {}), ...(order ? { order } : {}) };
  });
  if (step.keys.length === 0 && step.values.length === 0)
    problems.push(
      problem(
        'summary-empty',
        'Nothing says yet what one row stands for.',
        { step: step.id },
        'fields to group by, or figures of all rows',
      ),
    );
  const fields = [
    ...keys.flatMap(({ key, expression }) => (expression ? [keyField(key, expression, schema.fields, step.id)] : [])),
    ...values.flatMap((each) => (each.type ? [valueField(each, each.type, schema.fields, keys, step.id)] : [])),
  ];
  problems.push(...values.flatMap((each) => sumProblems(step, each, keys, schema, context)));
  for (const { key, expression } of keys) if (expression) context.budget.makes(key.id, expression);
  for (const { value, of } of values) if (of) context.budget.makes(value.id, of);
  const called = step.keys.length === 0 ? { row: `all ${grain.rows}`, rows: `all ${grain.rows}` } : wordsOf(step.keys);
  return {
    schema: { fields },
    grain: { ...called, keys: [step.keys.map((each) => each.id)] },
    problems,
    checked: { keys, values },
  };
}

const wordsOf = (keys: readonly SummaryKey[]) => {
  const words = keys.map((each) => each.name || '…').join(' and ');
  return { row: words, rows: `groups of ${words}` };
};

function keyField({ id, name }: SummaryKey, { type, ...of }: Expression, arriving: readonly Field[], step: string): Field {
  const plain = of.op === 'field' ? fieldById({ fields: arriving }, (of as { readonly id: string }).id) : undefined;
  const role = plain?.role ?? recogniseRole({ name, type, primaryKey: false, foreignKey: false, unique: false });
  // A measure rows are grouped by says what a group is; adding it up would say nothing.
  return { id, name, type, role: role === 'measure' ? 'attribute' : role, origin: { step, column: name }, forUseOnly: false };
}

/** Sums and counts add up again; averages, medians, different values, extremes and shares do not. */
export const addsUpAgain = (aggregate: SummaryAggregate): boolean => ['rows', 'count', 'sum'].includes(aggregate);

function valueField(
  { value: { id, name, aggregate }, of }: CheckedValue,
  type: FieldType,
  arriving: readonly Field[],
  keys: readonly CheckedKey[],
  step: string,
): Field {
  const base = { id, name, type, origin: { step, column: name }, forUseOnly: false };
  if (!isNumber(type)) return { ...base, role: isDay(type) ? 'date' : 'attribute' };
  if (!addsUpAgain(aggregate)) return { ...base, role: 'measure', addsUp: 'over nothing' };
  const grouping = aggregate === 'sum' ? plainField(of, arriving)?.within : undefined;
  const key = grouping === undefined ? undefined : keyOf(grouping, keys);
  return key === undefined ? { ...base, role: 'measure' } : { ...base, role: 'measure', addsUp: 'within one grouping', within: key };
}

const plainField = (of: Expression | undefined, fields: readonly Field[]): Field | undefined =>
  of?.op === 'field' ? fields.find((each) => each.id === of.id) : undefined;

/** The key that groups by a field as it is. */
const keyOf = (field: string, keys: readonly CheckedKey[]): string | undefined =>
  keys.find(({ expression }) => expression?.op === 'field' && expression.id === field)?.key.id;

/** A sum over what does not add up: over nothing, over several groupings, or over dates. */
function sumProblems(
  step: Parts,
  { value, of, among }: CheckedValue,
  keys: readonly CheckedKey[],
  schema: Schema,
  { sheet = [] }: Pick<CheckContext, 'sheet'>,
): readonly Problem[] {
  const field = value.aggregate === 'sum' ? plainField(of, schema.fields) : undefined;
  if (!field) return [];
  const place = { step: step.id, field: value.id };
  const said = sheet.find((each) => each.field === field.id);
  const addsUp = said?.addsUp ?? field.addsUp;
  if (addsUp === 'over nothing')
    return [
      warning(
        'sum-over-nothing',
        `${field.name} adds up over nothing, so its sum says nothing.`,
        place,
        'an average, the least or the greatest',
      ),
    ];
  const asks = (id: string) => keyOf(id, keys) !== undefined || (among !== undefined && fieldsUsed(among).includes(id));
  if (addsUp === 'within one grouping' && field.within !== undefined && !asks(field.within)) {
    const name = fieldById(schema, field.within)?.name ?? 'what made several rows of one';
    return [
      warning(
        'sum-over-groupings',
        `${field.name} stands once per ${name}, so this sum counts it several times.`,
        place,
        `groups by ${name}`,
      ),
    ];
  }
  const last = said?.lastBy;
  const dated = last !== undefined && keys.some(({ expression }) => expression !== undefined && fieldsUsed(expression).includes(last));
  if (addsUp === 'over everything but dates, then last' && !dated)
    return [
      warning(
        'sum-over-dates',
        `${field.name} adds up over everything but dates, and this sum is over dates.`,
        place,
        'the last by its date, or groups by it',
      ),
    ];
  return [];
}

/** The type of a figure; undefined where there is none of this type. */
function aggregated(aggregate: SummaryAggregate, type: FieldType): FieldType | undefined {
  const sum: FieldType = type.kind === 'float' ? float : decimal(MAX_DIGITS, type.kind === 'decimal' ? type.scale : 0);
  switch (aggregate) {
    case 'rows':
    case 'count':
      return whole;
    case 'distinct count':
      return type.kind === 'json' ? undefined : whole;
    case 'joined':
      return type.kind === 'json' ? undefined : text;
    case 'share':
      return arithmeticType('/', whole, whole);
    case 'sum':
      return isNumber(type) ? sum : undefined;
    case 'average':
    case 'median':
      return isNumber(type) ? (arithmeticType('/', sum, whole) ?? float) : undefined;
    default:
      return type.kind === 'json' || type.kind === 'yesno' ? undefined : type;
  }
}
