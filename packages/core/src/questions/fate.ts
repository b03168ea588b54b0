import { clauseSentence } from '../criteria';
import type { Expression } from '../expressions';
import { all, compare, fieldsUsed, isNull } from '../expressions';
import type { Field, FieldId, Schema } from '../fields';
import { fieldById } from '../fields';
import { relationAfter } from '../planning';
import { refuse } from '../problem';
import type { Column, Relation } from '../sql';
import { calculated, columnsOf } from '../sql';
import type { Step } from '../steps';
import { readValue } from '../values';
import { checkedStep, subTrail } from '../trail';
import { askedStep, column, outcome } from './asked-clauses';
import { passes } from './outcomes';
import type { QuestionContext, Questioning, WireRow } from './question';

/** What a row is known by: values of fields of its table, in wire form; null for null. */
export type Identity = readonly { readonly field: FieldId; readonly value: string | null }[];

export interface NamedValue {
  readonly name: string;
  readonly value: string | null;
}

/** What became of the rows at one step. At most `ROWS_FOLLOWED` are followed; more are said to be more. */
export interface StepFate {
  readonly step: string;
  readonly arrived: number;
  readonly present: number;
  /** Rows a criteria step dropped, with the clauses that did. */
  readonly dropped: readonly DroppedRow[];
  /** Calculated values of the rows that are present. */
  readonly values: readonly (readonly NamedValue[])[];
}

export interface DroppedRow {
  readonly clauses: readonly { readonly id: string; readonly number: string; readonly words: string }[];
  /** The row's values of the fields these clauses ask about. */
  readonly values: readonly NamedValue[];
}

export interface Fate {
  /** The rows at their source, every column. */
  readonly source: { readonly names: readonly string[]; readonly rows: readonly WireRow[] };
  readonly more: boolean;
  readonly steps: readonly StepFate[];
}

export const ROWS_FOLLOWED = 20;

/** What became of the rows of an identity, from their table to a step. */
export function* fate(context: QuestionContext, stepId: string, identity: Identity): Questioning<Fate> {
  const { trail, binding, catalogue } = context;
  const [first, ...rest] = subTrail(trail.definition, stepId);
  if (!first || identity.length === 0) return refuse('step-gone', 'There is no row to follow.', { step: stepId });
  const schema = checkedStep(trail, first.id)?.schema ?? { fields: [] };
  const known = conditionOf(schema, identity);
  const table = relationAfter(trail, first.id, binding, catalogue);
  const rows = yield { relation: { node: 'filter', input: table, condition: known }, columns: columnsOf(table), limit: ROWS_FOLLOWED + 1 };
  const found = rows.slice(0, ROWS_FOLLOWED);
  const steps: StepFate[] = [{ step: first.id, arrived: found.length, present: found.length, dropped: [], values: [] }];
  for (const step of rest) {
    const before = steps.at(-1)?.present ?? 0;
    steps.push(before === 0 ? gone(step) : yield* fateAt(context, step, known, before));
  }
  const names = columnsOf(table).map((each) => each.name);
  return { source: { names, rows: found }, more: rows.length > ROWS_FOLLOWED, steps };
}

const gone = ({ id }: Step): StepFate => ({ step: id, arrived: 0, present: 0, dropped: [], values: [] });

function conditionOf(schema: Schema, identity: Identity): Expression {
  const conditions = identity.map(({ field: id, value }): Expression => {
    const field = fieldById(schema, id);
    if (!field) return refuse('field-gone', 'A row is followed by fields of its table.', { field: id }, 'a field of the table step');
    const of: Expression = { op: 'field', type: field.type, id };
    if (value === null) return isNull(of);
    const read = readValue(field.type, value);
    if (!read.ok) return refuse('value-wrong-type', `“${value.slice(0, 60)}” is no value for ${field.name}.`, { field: id }, read.expected);
    return compare('=', of, { op: 'literal', type: field.type, value: read.value });
  });
  const [only] = conditions;
  return conditions.length > 1 || !only ? all(...conditions) : only;
}

function* fateAt(context: QuestionContext, step: Step, known: Expression, arrived: number): Questioning<StepFate> {
  const plain: StepFate = { step: step.id, arrived, present: arrived, dropped: [], values: [] };
  if (step.off) return plain;
  if (step.kind === 'criteria') return yield* throughCriteria(context, step.id, known, arrived);
  if (step.kind !== 'calculate') return plain;
  const { trail, binding, catalogue } = context;
  const relation = relationAfter(trail, step.id, binding, catalogue);
  const made = step.fields.flatMap((each) => fieldById(checkedStep(trail, step.id)?.schema ?? { fields: [] }, each.id) ?? []);
  const rows = yield { relation: { node: 'filter', input: relation, condition: known }, columns: made, limit: ROWS_FOLLOWED };
  return { ...plain, values: rows.map((row) => valuesOf(made, row)) };
}

function* throughCriteria(context: QuestionContext, stepId: string, known: Expression, arrived: number): Questioning<StepFate> {
  const { step, input, schema, lines } = askedStep(context, stepId);
  const top = lines.filter((each) => each.line.within.length === 0);
  const used = [...new Set(top.flatMap((each) => fieldsUsed(each.condition)))].flatMap((id) => fieldById(schema, id) ?? []);
  const own = top.map((each) => column(each.line.clause.id, each.condition));
  const filtered: Relation = { node: 'filter', input, condition: known };
  const columns: readonly Column[] = [...own, ...used];
  const rows = columns.length === 0 ? [] : yield { relation: calculated(filtered, own, undefined), columns, limit: ROWS_FOLLOWED };
  const { parameters } = context.trail.definition;
  const dropped = rows.flatMap((row): DroppedRow[] => {
    const outcomes = top.map((_each, index) => passes(step.head, outcome(row[index])));
    const kept = top.length === 0 || (step.head === 'at least one' ? outcomes.includes(true) : !outcomes.includes(false));
    if (kept) return [];
    const failed = top.filter((_each, index) => !outcomes[index]);
    const asked = new Set(failed.flatMap((each) => fieldsUsed(each.condition)));
    return [
      {
        clauses: failed.map(({ line }) => ({
          id: line.clause.id,
          number: line.number,
          words: clauseSentence(line.clause, schema, parameters),
        })),
        values: valuesOf(used, row.slice(own.length)).filter((_each, index) => asked.has(used[index]?.id ?? '')),
      },
    ];
  });
  return { step: stepId, arrived, present: arrived - dropped.length, dropped, values: [] };
}

const valuesOf = (fields: readonly Field[], row: WireRow): readonly NamedValue[] =>
  fields.map(({ name }, index) => ({ name, value: row[index] ?? null }));
