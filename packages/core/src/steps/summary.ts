import { z } from 'zod';
import { idShape } from '../ids';
import { expressionTextShape } from '../criteria';
import type { Expression, ExpressionText } from '../expressions';
import { arithmeticType, checkCondition, checkExpression, sumType } from '../expressions';
import type { Field, FieldType } from '../fields';
import { fieldById, float, isDay, isNumber, recogniseRole, text, typeWord, whole } from '../fields';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Arriving, CheckContext } from './step';
import type { CheckedKey, CheckedValue, SummaryAggregate, SummaryKey, SummaryValue } from './figures';
import { addsUpAgain, SUMMARY_AGGREGATES } from './figures';
import { figureProblems, keyOf, plainField, tiesOf } from './figure-problems';

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

/** Figures whose word is no noun by itself. */
const NOUNS: Partial<Record<SummaryAggregate, string>> = {
  least: 'least value',
  greatest: 'greatest value',
  first: 'first value',
  last: 'last value',
  joined: 'joined text',
};

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
      at(value.id, [
        problem(
          'value-missing',
          `Nothing says yet of what the ${NOUNS[value.aggregate] ?? value.aggregate} is.`,
          {},
          'a field, or an expression',
        ),
      ]);
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
    const ties = placed ? { ties: tiesOf(grain, schema) } : {};
    return { value, type, of, ...(among ? { among } : {}), ...(order ? { order } : {}), ...ties };
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
  problems.push(...values.flatMap((each) => figureProblems(step.id, each, keys, { schema, grain }, context)));
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
  // Where one record stands in several rows, counting rows counts it once in each grouping, as a sum of a measure does.
  const groupings =
    aggregate === 'sum'
      ? [plainField(of, arriving)?.within ?? []].flat()
      : arriving.flatMap((each) => (each.saysGrouping ? [each.id] : []));
  const key = groupings.flatMap((each) => keyOf(each, keys) ?? [])[0];
  return key === undefined ? { ...base, role: 'measure' } : { ...base, role: 'measure', addsUp: 'within one grouping', within: key };
}

/** The type of a figure; undefined where there is none of this type. */
function aggregated(aggregate: SummaryAggregate, type: FieldType): FieldType | undefined {
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
      return isNumber(type) ? sumType(type) : undefined;
    case 'average':
    case 'median':
      return isNumber(type) ? (arithmeticType('/', sumType(type), whole) ?? float) : undefined;
    default:
      return type.kind === 'json' || type.kind === 'yesno' ? undefined : type;
  }
}
