import { z } from 'zod';
import { mentionsIn } from '../criteria';
import type { ExpressionText, Reference } from '../expressions';
import {
  compare,
  conjunction,
  disjunction,
  either,
  expressionIds,
  fieldOfText,
  isNull,
  linkReferences,
  renameReference,
} from '../expressions';
import { date } from '../fields';
import { listedWords } from '../joins';
import type { Parameter } from '../parameters';
import type { Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';
import { readValue } from '../values';
import type { FollowedThrough, ItemChange, ItemList, StepKind, Through } from './kind';
import { ROWS_FOLLOWED } from './kind';
import { NOTHING_ARRIVES, stepBase } from './step';
import type { StepBase } from './step';
import type { SummaryKey, SummaryValue } from './figures';
import { checkSummary, summaryKeyShape, summaryValueShape } from './summary';
import type { EveryGroup, GroupPart } from './every-group';
import { checkEvery, everyGroupShape } from './every-group';
import type { CheckedSummary } from './summary-relation';
import { summaryFailures, summaryRelation } from './summary-relation';
import { summaryRows } from './summary-rows';
import type { Questioning } from './wanted-rows';

/** One row per combination of keys, with figures of the rows in it. Null is a group like others. */
export interface SummariseStep extends StepBase {
  readonly kind: 'summarise';
  readonly keys: readonly SummaryKey[];
  readonly values: readonly SummaryValue[];
  /** Groups that stand also without rows; left out where only rows make groups. */
  readonly every?: EveryGroup;
}

const shape: z.ZodType<SummariseStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('summarise'),
  keys: z.array(summaryKeyShape).max(100),
  values: z.array(summaryValueShape).max(300),
  every: everyGroupShape.optional(),
}) as z.ZodType<SummariseStep>;

const keys: ItemList<SummaryKey> = {
  shape: summaryKeyShape,
  sentence: (change: ItemChange) => {
    const name = (key: unknown) => (key as SummaryKey).expression.text || '…';
    if (change.did === 'changed') return `groups by ${name(change.to)} instead of ${name(change.from)}`;
    return change.did === 'added' ? `groups by ${name(change.item)} too` : `groups by ${name(change.item)} no more`;
  },
};

const values: ItemList<SummaryValue> = {
  shape: summaryValueShape,
  sentence: (change: ItemChange) => {
    if (change.did === 'changed') return `changed ${valueWords(change.from as SummaryValue)} to ${valueWords(change.to as SummaryValue)}`;
    return `${change.did} ${valueWords(change.item as SummaryValue)}`;
  },
};

/** A figure as the sentence says it. */
export function valueWords({ aggregate, expression, among }: SummaryValue): string {
  const of = expression.text.replace(/\s+/g, ' ').trim() || '…';
  const where = among.text.trim() === '' ? '' : ` where ${among.text.trim()}`;
  if (aggregate === 'rows') return `rows${where}`;
  return aggregate === 'share' ? `share of rows with ${of}${where}` : `${aggregate} of ${of}${where}`;
}

const endsOf = ({ every }: SummariseStep): readonly ExpressionText[] =>
  (every?.parts ?? []).flatMap((each) => (each.from === 'days' ? [each.since, each.until] : []));

const textsOf = (step: SummariseStep): readonly ExpressionText[] =>
  [
    ...step.keys.map((each) => each.expression),
    ...step.values.flatMap((each) => [each.expression, each.among, each.order]),
    ...endsOf(step),
  ].filter(({ text }) => text !== '');

/** The step with the parts of its groups without rows changed. */
const withParts = (step: SummariseStep, change: (part: GroupPart) => GroupPart): SummariseStep =>
  step.every ? { ...step, every: { ...step.every, parts: step.every.parts.map(change) } } : step;

const withTexts = (step: SummariseStep, change: (text: ExpressionText) => ExpressionText): SummariseStep => ({
  ...withParts(step, (part) => (part.from === 'days' ? { ...part, since: change(part.since), until: change(part.until) } : part)),
  keys: step.keys.map((each) => ({ ...each, expression: change(each.expression) })),
  values: step.values.map((each) => ({
    ...each,
    expression: change(each.expression),
    among: change(each.among),
    order: change(each.order),
  })),
});

const usesOf = (text: ExpressionText, parameters: readonly Parameter[]) => [
  ...text.refs,
  ...linkReferences(text.text, { schema: { fields: [] }, parameters }).refs,
];

export const summariseKind: StepKind<SummariseStep, CheckedSummary> = {
  kind: 'summarise',
  inputs: { least: 1, most: 10, role: (slot) => (slot === 0 ? 'rows' : 'values of groups') },
  shape,
  properties: {
    every: ({ to, title }) => (to === undefined ? `${title} has no groups without rows any more` : `${title} has groups also without rows`),
    keys: ({ title }) => `changed the order of what ${title} groups by`,
    values: ({ title }) => `changed the order of the figures of ${title}`,
  },
  lists: { keys, values },
  mints: (step) => [...step.keys, ...step.values].map((each) => each.id),
  sources: () => [],
  carries: (step, slot, field) => (slot === 0 ? step.keys.find((each) => fieldOfText(each.expression) === field)?.id : undefined),
  origin: (step, id) => {
    const key = step.keys.find((each) => each.id === id);
    const value = step.values.find((each) => each.id === id);
    const texts = key ? [key.expression] : value ? [value.expression, value.among, value.order] : undefined;
    return (
      texts && {
        fields: texts.flatMap(({ refs }) => refs.flatMap((each) => (each.kind === 'field' ? [each.id] : []))),
        how: key ? `grouped by ${key.expression.text}` : value ? valueWords(value) : '',
      }
    );
  },
  check: (step, arriving, context) => {
    const found = checkSummary(step, arriving[0] ?? NOTHING_ARRIVES, context);
    if (!step.every) return found;
    const { parts, problems } = checkEvery(step, found.checked.keys, arriving, context);
    const every = { parts, filledWith: step.every.filledWith };
    return { ...found, problems: [...found.problems, ...problems], checked: { ...found.checked, every } };
  },
  sentence: (step) => {
    const by = step.keys.map((each) => each.name || '…');
    const told = step.values.map(valueWords);
    if (by.length === 0 && told.length === 0) return 'summarises nothing yet';
    const row = by.length === 0 ? 'one row of all' : `one row per ${listedWords(by)}`;
    return told.length === 0 ? row : `${row}, with ${told.length > 3 ? `${told.length} figures` : listedWords(told)}`;
  },
  mentions: ({ step, checked }, parameters) => {
    const found = [...checked.keys.map((each) => each.expression), ...checked.values.flatMap((each) => [each.of, each.among, each.order])];
    const expressions = found.flatMap((each) => each ?? []);
    const uses = textsOf(step).flatMap((each) => usesOf(each, parameters));
    const ranges = (step.every?.parts ?? []).flatMap((each) => (each.from === 'range' ? [each.parameter] : []));
    return [
      ...mentionsIn(uses, expressions.length > 0 ? either(...expressions) : undefined, parameters),
      ...ranges.map((parameter) => ({ parameter, words: 'groups within', meets: date })),
    ];
  },
  unasked: () => undefined,
  relation: summaryRelation,
  rows: summaryRows,
  counted: { by: 'a statement of its own', failures: summaryFailures },
  followed,
  written: textsOf,
  uses: (step, parameters) => [
    ...textsOf(step).flatMap((each) => usesOf(each, parameters)),
    ...(step.every?.parts ?? []).flatMap((each): readonly Pick<Reference, 'kind' | 'id'>[] =>
      each.from === 'range'
        ? [{ kind: 'parameter', id: each.parameter }]
        : each.from === 'step' && each.field !== ''
          ? [{ kind: 'field', id: each.field }]
          : [],
    ),
  ],
  renamed: (step, kind, id, name) => withTexts(step, (text) => renameReference(text, kind, id, name)),
  fieldName: (step, id) => [...step.keys, ...step.values].find((each) => each.id === id)?.name,
  withFieldNamed: (step, id, name) => ({
    ...step,
    keys: step.keys.map((each) => (each.id === id ? { ...each, name } : each)),
    values: step.values.map((each) => (each.id === id ? { ...each, name } : each)),
  }),
  withIds: (step, idOf) => {
    const texts = withTexts(step, (text) => expressionIds(text, idOf));
    const own = withParts(texts, (part) => {
      if (part.from === 'rows') return { ...part, keys: part.keys.map(idOf) };
      const key = idOf(part.key);
      if (part.from === 'range') return { ...part, key, parameter: idOf(part.parameter) };
      return part.from === 'step' ? { ...part, key, field: part.field === '' ? '' : idOf(part.field) } : { ...part, key };
    });
    return {
      ...own,
      id: idOf(step.id),
      inputs: step.inputs.map((each) => each && idOf(each)),
      keys: own.keys.map((each) => ({ ...each, id: idOf(each.id) })),
      values: own.values.map((each) => ({ ...each, id: idOf(each.id) })),
    };
  },
  withoutValues: (step) => ({ ...withTexts(step, (text) => (fieldOfText(text) === undefined ? { text: '', refs: [] } : text)), name: '' }),
};

/** A summary that groups by nothing yet. */
export const summariseStep = (mint: () => string, input: string): SummariseStep => ({
  id: mint(),
  kind: 'summarise',
  name: '',
  off: false,
  inputs: [input],
  keys: [],
  values: [],
});

/** Which groups followed rows were counted into. */
function* followed(through: Through<SummariseStep, CheckedSummary>): Questioning<FollowedThrough> {
  const { checked, inputs, relation, known, binding, slot, arrived } = through;
  const { keys: own } = checked.checked;
  const [input] = inputs;
  if (!input) throw new RangeError('a summary has one input');
  // Values that groups are made of are no rows of it.
  if (slot > 0) return { present: arrived, dropped: [], values: [] };
  const without = { ...checked, checked: { keys: own, values: [] } };
  const groups = summaryRelation(without, [{ node: 'filter', input, condition: known }], binding);
  const columns = columnsOf(groups);
  const rows = columns.length === 0 ? [[]] : yield { relation: groups, columns, limit: ROWS_FOLLOWED };
  const found = rows.map((row) => {
    const same = columns.map((each, at) => {
      const value = readValue(each.type, row[at] ?? '');
      return row[at] === null || row[at] === undefined || !value.ok
        ? isNull(valueOf(each))
        : compare('=', valueOf(each), { op: 'literal', type: each.type, value: value.value });
    });
    return conjunction(same);
  });
  const now = disjunction(found);
  const shown = columnsOf(relation).slice(0, 6);
  const told = yield {
    relation: { node: 'filter', input: relation, condition: now } satisfies Relation,
    columns: shown,
    limit: ROWS_FOLLOWED,
  };
  const values = told.map((row) => shown.map(({ name }, at) => ({ name, value: row[at] ?? null })));
  return { present: told.length, dropped: [], values, known: now };
}
