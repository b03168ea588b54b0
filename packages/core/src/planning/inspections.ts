import { z } from 'zod';
import { idShape as id } from '../ids';
import { expressionTextShape } from '../criteria';
import type { Expression, ExpressionText, OrderBy, Window } from '../expressions';
import {
  all,
  blanksAsNull,
  checkExpression,
  compare,
  conjunction,
  disjunction,
  either,
  fieldsUsed,
  wholeLiteral,
  windowsOf,
} from '../expressions';
import type { FieldId, Schema } from '../fields';
import { fieldById, whole, yesno } from '../fields';
import type { Binding } from '../parameters';
import { ProblemError, refuse } from '../problem';
import type { CalculatedColumn, Relation } from '../sql';
import { calculated, calculatedColumn as column, columnsOf, shared, valueOf as fieldOf } from '../sql';
import type { CheckedOf, CheckedField, ChosenRows, Grain } from '../steps';
import { calculateRelation, checkedOf, firstArriving, kindOf, knownBy } from '../steps';
import type { CheckedTrail } from '../trail';
import { checkedStep } from '../trail';
import { lineRows } from './line-rows';
import { equalTo } from './equal-to';
import type { OutcomeKey } from './outcome-key';
import { outcomeKeyShape, rowsOfKey } from './outcome-key';
import type { JoinOutcome } from './outcome-rows';
import { JOIN_OUTCOMES, outcomeRows } from './outcome-rows';
import { outputColumns, relationArriving } from './relations';

/** What can be asked of a step besides its rows. */
export type Inspection =
  /** Rows that arrive and in which the step, or one field of it, failed. */
  | { readonly kind: 'failed'; readonly field?: FieldId }
  /** Rows of one line of a join's ledger; of its first side also those of one key alone. */
  | { readonly kind: 'outcome'; readonly outcome: JoinOutcome; readonly key?: OutcomeKey }
  /** Rows of one group of a summary, as they arrive: by the values of its keys, in wire form. */
  | { readonly kind: 'group'; readonly keys: readonly (string | null)[] }
  /** The rows a line of a line sheet was made of, as they arrive. */
  | { readonly kind: 'line'; readonly line: string }
  /** A handful of rows that arrive, for a calculated field as it is being written. */
  | { readonly kind: 'live'; readonly field: FieldId; readonly expression: ExpressionText }
  /** The rows a value over other rows was made from: its partition, and places in the order from and until, from 1. */
  | {
      readonly kind: 'frame';
      readonly field: FieldId;
      readonly expression: ExpressionText;
      /** Which of the expression's windows. */
      readonly window: number;
      /** Values of what it is partitioned by, in wire form. */
      readonly partition: readonly (string | null)[];
      readonly from: number;
      readonly until: number;
    };

const place = z.int().min(1).max(1_000_000_000);
export const inspectionShape: z.ZodType<Inspection> = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('failed'), field: id.optional() }),
  z.strictObject({ kind: z.literal('outcome'), outcome: z.enum(JOIN_OUTCOMES), key: outcomeKeyShape.optional() }),
  z.strictObject({ kind: z.literal('group'), keys: z.array(z.string().max(10_000).nullable()).max(100) }),
  z.strictObject({ kind: z.literal('line'), line: id }),
  z.strictObject({ kind: z.literal('live'), field: id, expression: expressionTextShape }),
  z.strictObject({
    kind: z.literal('frame'),
    field: id,
    expression: expressionTextShape,
    window: z.int().min(0).max(1_000),
    partition: z.array(z.string().max(10_000).nullable()).max(100),
    from: place,
    until: place,
  }),
]) as z.ZodType<Inspection>;

/** Live rows are picked among this many, and at most this many of a frame are shown. */
export const LIVE_AMONG = 20_000;
export const FRAME_ROWS = 200;
/** Rows taken as they come, so that not everything shown is out of the ordinary. */
const FIRST_ROWS = 5;
/** Fields of which rows with nulls and extremes are looked for. */
const PICKED_BY = 4;
const MOST_COLUMNS = 100;

/** The rows an inspection stands for. Throws a ProblemError for a step or field that is not there, or an expression with errors. */
export function inspectedRows(trail: CheckedTrail, stepId: string, inspection: Inspection, binding: Binding): ChosenRows {
  const checked = checkedStep(trail, stepId);
  if (!checked) return refuse('step-gone', 'This step is not in the dataset any more.', { step: stepId });
  const input = relationArriving(trail, stepId, binding);
  if (inspection.kind === 'outcome') {
    const join = checkedOf('join', checked);
    if (!join) return refuse('inspection-unsuited', `A ${checked.step.kind} step joins nothing.`, { step: stepId });
    if (checked.blocked) return refuse('step-blocked', 'This step cannot run before its errors are mended.', { step: stepId });
    const { outcome, key } = inspection;
    if (key && outcome.startsWith('right')) return refuse('inspection-unsuited', 'Keys are those of the first side.', { step: stepId });
    const left = key ? rowsOfKey(join, key, input, binding) : input;
    return outcomeRows(join, outcome, [left, relationArriving(trail, stepId, binding, 1)], binding);
  }
  if (inspection.kind === 'group') return groupRows(trail, stepId, inspection.keys, input, binding);
  if (inspection.kind === 'line') return lineRows(trail, stepId, inspection.line, binding);
  if (inspection.kind === 'failed') return failedRows(trail, stepId, inspection.field, input, binding);
  const calculation = checkedOf('calculate', checked);
  if (!calculation) return refuse('inspection-unsuited', `A ${checked.step.kind} step has no calculated fields.`, { step: stepId });
  const { at, scope, expression } = written(trail, calculation, inspection);
  const below = calculateRelation({ title: '', checked: calculation.checked.slice(0, at) }, input, binding, false);
  return inspection.kind === 'live'
    ? live(below, scope, expression)
    : frame(below, scope, firstArriving(calculation).grain, expression, inspection);
}

/** The rows a group of a summary was made of. */
function groupRows(
  trail: CheckedTrail,
  stepId: string,
  given: readonly (string | null)[],
  input: Relation,
  { blanks }: Binding,
): ChosenRows {
  const summary = checkedOf('summarise', checkedStep(trail, stepId));
  if (!summary) return refuse('inspection-unsuited', 'Only a summary has groups.', { step: stepId });
  if (summary.blocked) return refuse('step-blocked', 'This step cannot run before its errors are mended.', { step: stepId });
  const keys = summary.checked.keys.flatMap(({ expression }) => (expression ? [blanksAsNull(expression, blanks)] : []));
  if (keys.length !== given.length) return refuse('inspection-unsuited', 'The summary groups by something else now.', { step: stepId });
  const same = keys.map((each, at) => equalTo(each, given[at] ?? null));
  const columns = firstArriving(summary).schema.fields.filter((each) => !each.forUseOnly);
  return { relation: same.length === 0 ? input : where(input, conjunction(same)), columns };
}

/** The rows that arrive and in which computing something failed, with what the step puts out of them. */
function failedRows(trail: CheckedTrail, stepId: string, field: FieldId | undefined, input: Relation, binding: Binding): ChosenRows {
  const checked = checkedStep(trail, stepId);
  const counted = checked && kindOf(checked.step).counted;
  if (checked && counted?.by === 'a statement of its own' && counted.failures) {
    // Rows are made anew, so those that fail are shown as they arrive.
    const own = counted.failures(checked, binding).filter((each) => field === undefined || each.field === field);
    const slot = own[0]?.slot ?? 0;
    const conditions = own.flatMap((each) => (each.slot === slot ? [each.when] : []));
    const columns = (checked.arriving[slot]?.schema.fields ?? []).filter((each) => !each.forUseOnly);
    const arriving = relationArriving(trail, stepId, binding, slot);
    return { relation: where(arriving, disjunction(conditions)), columns };
  }
  if (!checked || counted?.by !== 'rows of its first input')
    return refuse('inspection-unsuited', `A ${checked?.step.kind ?? ''} step computes nothing for single rows.`, { step: stepId });
  const { relation, failures } = counted.passing(checked, input, binding);
  const failure = failures.find((each) => each.field === field);
  const given = new Set(columnsOf(relation).map((each) => each.id));
  return { relation: where(relation, failure?.when), columns: outputColumns(trail, stepId).filter((each) => given.has(each.id)) };
}

const where = (input: Relation, condition: Expression | undefined): Relation => {
  const { relation, expressions } = shared(input, [condition ?? { op: 'literal', type: yesno, value: false }]);
  const [asked] = expressions;
  return asked ? { node: 'filter', input: relation, condition: asked } : input;
};

/** The field as it is written now, checked in its place among the others. */
function written(
  { definition: { parameters, calendar } }: CheckedTrail,
  { step, checked }: CheckedOf<'calculate'>,
  inspection: Inspection & { kind: 'live' | 'frame' },
) {
  const at = checked.findIndex((each) => each.field.id === inspection.field);
  const found: CheckedField | undefined = checked[at];
  if (!found) return refuse('field-gone', 'This calculated field is not in the step any more.', { step: step.id, field: inspection.field });
  const { text, refs } = inspection.expression;
  const { expression, problems } = checkExpression(text, { parameters, calendar, ...found.scope, refs });
  if (!expression) throw new ProblemError(problems);
  return { at, scope: found.scope.schema, expression };
}

/** Column of a window's value; of the row's place in the window's order; of how many rows there are up to it and its equals. */
export const liveColumns = (window: number) => ({ value: `window ${window}`, place: `place ${window}`, peers: `peers ${window}` });

/** The rows among the first ones that have a null, the least or the greatest value of a field used, and a few more. */
function live(input: Relation, scope: Schema, expression: Expression): ChosenRows {
  const windows = windowsOf(expression);
  const made = windows.flatMap((node, index): CalculatedColumn[] => {
    const names = liveColumns(index);
    const { partition, order } = node;
    const over = { op: 'window', type: whole, of: [], partition, order } as const;
    return [
      column(names.value, node),
      column(names.place, { ...over, name: 'rowNumber' }),
      column(names.peers, { ...over, name: 'countRows' }),
    ];
  });
  const used = fieldsUsed(expression).flatMap((each) => fieldById(scope, each) ?? []);
  const picks = picksBy(used.filter((each) => each.type.kind !== 'json').slice(0, PICKED_BY));
  const among: Relation = { node: 'limit', input: made.length > 0 ? calculated(input, made, undefined) : input, count: LIVE_AMONG };
  // Numbered before anything is sorted, so that the first rows are those that come first.
  const numbered = calculated(among, picks.slice(0, 1), undefined);
  const picked = picks.length > 1 ? calculated(numbered, picks.slice(1), undefined) : numbered;
  const chosen = either(
    compare('<=', fieldOf(picks[0] as CalculatedColumn), wholeLiteral(FIRST_ROWS)),
    ...picks.slice(1).map((each) => compare('=', fieldOf(each), wholeLiteral(1))),
  );
  const others = scope.fields.filter((each) => !used.includes(each));
  const shown = [...used, ...others].slice(0, Math.max(MOST_COLUMNS, used.length));
  return {
    relation: { node: 'filter', input: picked, condition: chosen },
    columns: [...shown, ...made].map(({ id: columnId, name, type }) => ({ id: columnId, name, type })),
  };
}

/** The first rows, then for each field its null, its least and its greatest value. */
function picksBy(fields: Schema['fields']): readonly CalculatedColumn[] {
  const first = (order: readonly OrderBy[]): Window => ({ op: 'window', type: whole, name: 'rowNumber', of: [], partition: [], order });
  return [
    column('pick 0', first([])),
    ...fields.flatMap(({ id: fieldId, type }, index) => {
      const of = fieldOf({ id: fieldId, type });
      return [
        column(`pick null ${index}`, first([{ of, descending: false, nullsFirst: true }])),
        column(`pick least ${index}`, first([{ of, descending: false, nullsFirst: false }])),
        column(`pick greatest ${index}`, first([{ of, descending: true, nullsFirst: false }])),
      ];
    }),
  ];
}

/** Column of a frame's rows: the place in the order. */
export const FRAME_PLACE = 'place';

function frame(
  input: Relation,
  scope: Schema,
  grain: Grain,
  expression: Expression,
  inspection: Inspection & { kind: 'frame' },
): ChosenRows {
  const node = windowsOf(expression)[inspection.window];
  if (!node || node.partition.length !== inspection.partition.length)
    refuse('inspection-unsuited', 'The expression has no such value over other rows.', { field: inspection.field });
  const same = node.partition.map((of, index) => equalTo(of, inspection.partition[index] ?? null));
  const inPartition: Relation = same.length > 0 ? where(input, conjunction(same)) : input;
  const { order } = node;
  const made = [
    column(FRAME_PLACE, { op: 'window', type: whole, name: 'rowNumber', of: [], partition: [], order }),
    // A field shows its value itself.
    ...node.of.flatMap((of, index) =>
      of.op === 'field' || of.op === 'literal' ? [] : [column(index === 0 ? 'value' : `value ${index + 1}`, of)],
    ),
  ];
  const placed = calculated(inPartition, made, undefined);
  const at = fieldOf(made[0] as CalculatedColumn);
  const until = Math.min(inspection.until, inspection.from + FRAME_ROWS - 1);
  // What is computed first, then what it is ordered by, then which row it is.
  const used = [...node.of, ...order.map((each) => each.of), ...node.partition].flatMap(fieldsUsed);
  const fields = [...used.slice(0, 1), ...knownBy(grain, scope), ...used].flatMap((each) => fieldById(scope, each) ?? []);
  return {
    relation: {
      node: 'filter',
      input: placed,
      condition: all(compare('>=', at, wholeLiteral(inspection.from)), compare('<=', at, wholeLiteral(until))),
    },
    columns: [...made, ...new Set(fields)].map(({ id: columnId, name, type }) => ({ id: columnId, name, type })),
    limit: FRAME_ROWS,
  };
}
