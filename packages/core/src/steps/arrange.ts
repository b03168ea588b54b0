import { z } from 'zod';
import { expressionTextShape } from '../criteria';
import { idShape } from '../ids';
import type { ExpressionText } from '../expressions';
import { expressionIds, linkReferences, renameReference } from '../expressions';
import type { FieldId, Schema } from '../fields';
import { fieldById } from '../fields';
import { listedWords } from '../joins';
import type { Parameter } from '../parameters';
import type { DroppedRow, FollowedThrough, ItemChange, ItemList, StepKind, Through } from './kind';
import { ROWS_FOLLOWED } from './kind';
import { stillKnown } from './passing-through';
import { NOTHING_ARRIVES, ONE_INPUT, stepBase } from './step';
import type { ArrangeKey, ArrangeStep, FirstRows } from './arrangement';
import { isKept } from './arrangement';
import type { CheckedArrange } from './arrange-check';
import { checkArrange } from './arrange-check';
import { arrangePassing, arrangeRelation, arrangeRows, placedRows } from './arrange-relation';
import type { Questioning } from './wanted-rows';

const keyShape: z.ZodType<ArrangeKey> = z.strictObject({
  id: idShape,
  field: z.union([idShape, z.literal('')]),
  descending: z.boolean(),
  nullsFirst: z.boolean(),
});

const shape: z.ZodType<ArrangeStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('arrange'),
  sort: z.array(keyShape).max(50),
  first: z.strictObject({ count: expressionTextShape, ties: z.boolean(), per: z.array(idShape).max(50) }).nullable(),
  distinct: z.array(idShape).max(200).nullable(),
  fields: z
    .array(z.strictObject({ field: idShape, forUseOnly: z.boolean() }))
    .max(2_000)
    .nullable(),
});

const sort: ItemList<ArrangeKey> = {
  shape: keyShape,
  sentence: (change: ItemChange, schema: Schema) => {
    const key = (each: unknown) => keyWords(each as ArrangeKey, schema);
    if (change.did === 'changed') return `sorts by ${key(change.to)} instead of ${key(change.from)}`;
    return change.did === 'added' ? `sorts by ${key(change.item)} too` : `sorts by ${key(change.item)} no more`;
  },
};

const keyWords = ({ field, descending }: ArrangeKey, schema: Schema): string =>
  `${fieldById(schema, field)?.name ?? '…'}${descending ? ' descending' : ''}`;

/** A parameter is meant by its name, whether it was there first or not. */
const countRefs = ({ text, refs }: ExpressionText, parameters: readonly Parameter[]) => [
  ...refs,
  ...linkReferences(text, { schema: { fields: [] }, parameters }).refs,
];

const withCount = (step: ArrangeStep, change: (count: ExpressionText) => ExpressionText): ArrangeStep =>
  step.first ? { ...step, first: { ...step.first, count: change(step.first.count) } } : step;

const carries = (step: ArrangeStep, slot: number, field: FieldId): FieldId | undefined =>
  slot === 0 && isKept(step, field) ? field : undefined;

export const arrangeKind: StepKind<ArrangeStep, CheckedArrange> = {
  kind: 'arrange',
  inputs: ONE_INPUT,
  shape,
  properties: {
    first: ({ to, title }) => (to === null ? `${title} keeps all rows` : `${title} keeps the first rows`),
    distinct: ({ to, title }) =>
      to === null ? `${title} keeps rows that are alike` : `${title} keeps one row per combination of some fields`,
    fields: ({ to, title }) => (to === null ? `${title} hands on all fields` : `chose the fields of ${title}`),
    sort: ({ title }) => `changed what ${title} sorts by first`,
  },
  lists: { sort },
  mints: () => [],
  sources: () => [],
  carries,
  origin: () => undefined,
  check: (step, [arriving = NOTHING_ARRIVES], context) => checkArrange(step, arriving, context),
  sentence: (step, [{ schema } = NOTHING_ARRIVES]) => {
    const name = (id: FieldId) => fieldById(schema, id)?.name ?? '…';
    const said = [
      ...(step.distinct ? [`one row per ${listedWords(step.distinct.map(name))}`] : []),
      ...(step.first ? [firstWords(step.first, name)] : []),
      ...(step.sort.length > 0 ? [`by ${listedWords(step.sort.map((each) => keyWords(each, schema)))}`] : []),
      ...(step.fields ? [fieldCount(step.fields.filter((each) => !each.forUseOnly).length)] : []),
    ];
    return said.length === 0 ? 'arranges nothing yet' : said.join(', ');
  },
  mentions: ({ step, checked }, parameters) => {
    const asked = new Set(
      step.first ? countRefs(step.first.count, parameters).flatMap(({ kind, id }) => (kind === 'parameter' ? [id] : [])) : [],
    );
    return parameters.flatMap(({ id }) =>
      asked.has(id) ? [{ parameter: id, words: 'place at most', ...(checked.count ? { meets: checked.count.type } : {}) }] : [],
    );
  },
  unasked: (step, arriving, context) =>
    step.first !== null && !step.first.count.text.includes(':') ? { taken: arrangeKind.sentence(step, arriving, context) } : undefined,
  order: (step) => (step.sort.length > 0 ? step.sort.filter((each) => each.field !== '') : 'as it comes'),
  relation: (own, [input], binding) => {
    if (!input) throw new RangeError('one input is arranged');
    return arrangeRelation(own, input, binding);
  },
  rows: (own, [rows = []], binding) => arrangeRows(own, rows, binding),
  counted: { by: 'rows of its first input', passing: (own, input, binding) => arrangePassing(own, input, binding) },
  followed,
  written: (step) => (step.first && step.first.count.text !== '' ? [step.first.count] : []),
  uses: (step, parameters) => [
    ...[
      ...step.sort.map((each) => each.field),
      ...(step.distinct ?? []),
      ...(step.first?.per ?? []),
      ...(step.fields ?? []).map((each) => each.field),
    ]
      .filter((id) => id !== '')
      .map((id) => ({ kind: 'field' as const, id })),
    ...(step.first ? countRefs(step.first.count, parameters) : []),
  ],
  renamed: (step, kind, id, name) => withCount(step, (count) => renameReference(count, kind, id, name)),
  fieldName: () => undefined,
  withFieldNamed: (step) => step,
  withIds: (step, idOf) => ({
    ...withCount(step, (count) => expressionIds(count, idOf)),
    id: idOf(step.id),
    inputs: step.inputs.map((each) => each && idOf(each)),
    sort: step.sort.map((each) => ({ ...each, id: idOf(each.id), field: each.field === '' ? '' : idOf(each.field) })),
    first: step.first && { ...step.first, count: expressionIds(step.first.count, idOf), per: step.first.per.map(idOf) },
    distinct: step.distinct && step.distinct.map(idOf),
    fields: step.fields && step.fields.map((each) => ({ ...each, field: idOf(each.field) })),
  }),
  withoutValues: (step) => ({ ...withCount(step, () => ({ text: '', refs: [] })), name: '' }),
};

function firstWords({ count, ties, per }: FirstRows, name: (id: FieldId) => string): string {
  const each = per.length > 0 ? ` of each ${listedWords(per.map(name))}` : '';
  return `first ${count.text.trim() || '…'}${each}${ties ? ' with ties' : ''}`;
}

/** Rows that are not among the first, or alike to an earlier one, are dropped. */
function* followed(through: Through<ArrangeStep, CheckedArrange>): Questioning<FollowedThrough> {
  const { checked, known, binding, arrived, inputs } = through;
  const [input] = inputs;
  if (!input) throw new RangeError('one input is arranged');
  const now = stillKnown(through, carries);
  const going = now ? { known: now } : {};
  const { relation, distinct, first } = placedRows(checked, input, binding);
  if (!distinct && !first) return { present: arrived, dropped: [], values: [], ...going };
  const { shown } = checked.checked;
  const places = [...(distinct ? [distinct] : []), ...(first ? [first.column] : [])];
  const columns = [...places, ...shown];
  const rows = yield { relation: { node: 'filter', input: relation, condition: known }, columns, limit: ROWS_FOLLOWED };
  const dropped = rows.flatMap((row): DroppedRow[] => {
    const repeated = distinct !== undefined && row[0] !== '1';
    const beyond = first !== undefined && BigInt(row[places.length - 1] ?? '0') > first.count;
    if (!repeated && !beyond) return [];
    const values = shown.map(({ name }, at) => ({ name, value: row[places.length + at] ?? null }));
    return [{ because: repeated ? 'alike to an earlier one' : 'not among the first', clauses: [], values }];
  });
  return { present: rows.length - dropped.length, dropped, values: [], ...going };
}

/** Arranges nothing yet. */
export const arrangeStep = (mint: () => string, input: string): ArrangeStep => ({
  id: mint(),
  kind: 'arrange',
  name: '',
  off: false,
  inputs: [input],
  sort: [],
  first: null,
  distinct: null,
  fields: null,
});

const fieldCount = (count: number) => `${count} ${count === 1 ? 'field' : 'fields'}`;
