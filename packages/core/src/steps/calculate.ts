import { z } from 'zod';
import { idShape } from '../ids';
import { expressionTextShape, mentionsIn } from '../criteria';
import type { Expression, ExpressionText } from '../expressions';
import {
  blanksAsNull,
  either,
  evaluate,
  expressionIds,
  failureOf,
  linkReferences,
  renameReference,
  windowsOf,
  windowValues,
} from '../expressions';
import type { FieldId } from '../fields';
import { fieldById, yesno } from '../fields';
import type { Binding, Parameter } from '../parameters';
import type { LevelledColumn, Relation } from '../sql';
import { calculated, columnsOf, failedColumn } from '../sql';
import type { Value } from '../values';
import type { CheckedField } from './calculated-fields';
import { checkCalculated } from './calculated-fields';
import type { FollowedThrough, ItemChange, ItemList, Passing, StepKind, Through } from './kind';
import { ROWS_FOLLOWED } from './kind';
import { sameField } from './passing-through';
import { rowOf } from './rows';
import type { Checked, Rows, StepBase } from './step';
import { NOTHING_ARRIVES, ONE_INPUT, stepBase } from './step';
import type { Questioning } from './wanted-rows';
import { beginning } from '../values';

/** A field made by an expression over the fields before it. Its id is minted with it and never changes. */
export interface CalculatedField {
  readonly id: string;
  readonly name: string;
  readonly expression: ExpressionText;
}

/** Adds calculated fields behind those that arrive; each may use the ones before it. */
export interface CalculateStep extends StepBase {
  readonly kind: 'calculate';
  readonly fields: readonly CalculatedField[];
}

/** Its fields as typed expressions, blanks not applied. */
export type CheckedCalculation = readonly CheckedField[];
type Own = Checked<CalculateStep, CheckedCalculation>;

export const calculatedFieldShape: z.ZodType<CalculatedField> = z.strictObject({
  id: idShape,
  name: z.string().max(200),
  expression: expressionTextShape,
});

const shape: z.ZodType<CalculateStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('calculate'),
  fields: z.array(calculatedFieldShape).max(200),
});

const fields: ItemList<CalculatedField> = {
  shape: calculatedFieldShape,
  sentence: (change: ItemChange) => {
    if (change.did === 'changed') {
      const { name, expression } = change.to as CalculatedField;
      return expression.text === ''
        ? `emptied ${name || 'a calculated field'}`
        : `calculated ${name || 'a field'} as ${oneLine(expression.text)}`;
    }
    const { name } = change.item as CalculatedField;
    if (change.did === 'added') return name === '' ? 'added a calculated field' : `added the calculated field ${name}`;
    return `removed the calculated field ${name || 'without a name'}`;
  },
};

const oneLine = (text: string) => {
  const line = text.replace(/\s+/g, ' ').trim();
  return line.length > 60 ? `${beginning(line, 59)}…` : line;
};

export const calculateKind: StepKind<CalculateStep, CheckedCalculation> = {
  kind: 'calculate',
  inputs: ONE_INPUT,
  shape,
  properties: { fields: ({ title }) => `changed the order of the calculated fields ${title}` },
  lists: { fields },
  mints: (step) => step.fields.map((each) => each.id),
  sources: () => [],
  carries: sameField,
  origin: (step, id) => {
    const field = step.fields.find((each) => each.id === id);
    if (!field) return undefined;
    const { text, refs } = field.expression;
    return {
      fields: refs.flatMap((each) => (each.kind === 'field' ? [each.id] : [])),
      how: `${field.name} = ${text.replace(/\s+/g, ' ')}`,
    };
  },
  check: (step, [input = NOTHING_ARRIVES], context) => {
    const { schema, fields: checked } = checkCalculated(step, input, context);
    return { schema, grain: input.grain, problems: checked.flatMap((each) => each.problems), checked };
  },
  sentence: ({ fields: made }) => {
    const names = made.map((each) => each.name || 'a field without a name');
    if (names.length === 0) return 'with nothing calculated yet';
    const shown = names.length > 3 ? [...names.slice(0, 2), `${names.length - 2} more`] : names;
    return `with ${shown.length > 1 ? `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}` : shown[0]}`;
  },
  mentions: ({ step, checked }, parameters) =>
    step.fields.flatMap((field) =>
      mentionsIn(
        fieldUses(field, parameters),
        checked.find((each) => each.field.id === field.id)?.expression,
        parameters,
        ({ name }) => `${field.name || 'a field'} uses :${name} as`,
      ),
    ),
  unasked: () => undefined,
  order: () => 'as it comes',
  relation: (checked, [input], binding) => {
    if (!input) throw new RangeError('a calculate step has one input');
    return calculateRelation(checked, input, binding, false);
  },
  rows: (checked, [rows = []], binding) =>
    calculatedColumns(checked, binding).reduce((done, column) => withValue(done, column, binding), rows),
  counted: { by: 'rows of its first input', passing },
  followed,
  written: (step) => step.fields.map((each) => each.expression),
  uses: (step, parameters) => step.fields.flatMap((each) => fieldUses(each, parameters)),
  renamed: (step, kind, id, name) => ({
    ...step,
    fields: step.fields.map((field) => ({ ...field, expression: renameReference(field.expression, kind, id, name) })),
  }),
  fieldName: (step, id) => step.fields.find((each) => each.id === id)?.name,
  withFieldNamed: (step, id, name) => ({ ...step, fields: step.fields.map((each) => (each.id === id ? { ...each, name } : each)) }),
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    inputs: step.inputs.map((each) => each && idOf(each)),
    fields: step.fields.map((each) => ({ ...each, id: idOf(each.id), expression: expressionIds(each.expression, idOf) })),
  }),
  withoutValues: (step) => ({ ...step, name: '', fields: step.fields.map((field) => ({ ...field, expression: { text: '', refs: [] } })) }),
};

/** A calculate step that begins with one field, for which nothing is written yet. */
export const calculateStep = (mint: () => string, input: string): CalculateStep => ({
  id: mint(),
  kind: 'calculate',
  name: '',
  off: false,
  inputs: [input],
  fields: [{ id: mint(), name: '', expression: { text: '', refs: [] } }],
});

/** What an expression mentions; parameters also by name, where they came after it. */
const fieldUses = ({ expression }: CalculatedField, parameters: readonly Parameter[]) => [
  ...expression.refs,
  ...linkReferences(expression.text, { schema: { fields: [] }, parameters }).refs,
];

/** The step's fields as typed columns, blank parameters as nulls. */
function calculatedColumns({ checked }: Pick<Own, 'checked'>, { blanks }: Binding): readonly LevelledColumn[] {
  return checked.flatMap(({ field, expression }) =>
    expression ? [{ id: field.id, name: field.name, type: expression.type, expression: blanksAsNull(expression, blanks) }] : [],
  );
}

/** What the step stands for; on request with a column behind each field that can fail, saying where it did. */
export function calculateRelation(
  checked: Pick<Own, 'checked' | 'title'>,
  input: Relation,
  binding: Binding,
  withFailures: boolean,
): Relation {
  const columns = calculatedColumns(checked, binding);
  return columns.length === 0 ? input : calculated(input, withFailures ? columns.map(failing) : columns, checked.title);
}

function failing(column: LevelledColumn): LevelledColumn {
  const failure = failureOf(column.expression);
  return failure ? { ...column, failure } : column;
}

function passing(checked: Own, input: Relation, binding: Binding): Passing {
  const relation = calculateRelation(checked, input, binding, true);
  const arriving = new Set(columnsOf(input).map((each) => each.id));
  const made = new Set(columnsOf(relation).flatMap(({ id }) => (arriving.has(id) ? [] : [id])));
  const failed = checked.step.fields.flatMap(({ id }) => (made.has(failedColumn(id).id) ? [{ field: id, when: flag(id) }] : []));
  const looksAtOtherRows = checked.checked.some(({ expression }) => expression && windowsOf(expression).length > 0);
  const [only] = failed;
  if (!only) return { relation, failures: [], looksAtOtherRows };
  const when = failed.length > 1 ? either(...failed.map((each) => each.when)) : only.when;
  return { relation, failures: [{ when }, ...failed], looksAtOtherRows };
}

const flag = (id: FieldId): Expression => ({ op: 'field', type: yesno, id: failedColumn(id).id });

function* followed({ checked, relation, known, arrived }: Through<CalculateStep, CheckedCalculation>): Questioning<FollowedThrough> {
  const made = checked.step.fields.flatMap((each) => fieldById(checked.schema, each.id) ?? []);
  const rows =
    made.length === 0 ? [] : yield { relation: { node: 'filter', input: relation, condition: known }, columns: made, limit: ROWS_FOLLOWED };
  const values = rows.map((row) => made.map(({ name }, index) => ({ name, value: row[index] ?? null })));
  return { present: arrived, dropped: [], values, known };
}

function withValue(rows: Rows, column: { readonly id: string; readonly expression: Expression }, binding: Binding): Rows {
  const seen = rows.map((row) => rowOf(row, binding));
  const windows = new Map(windowsOf(column.expression).map((node) => [node, windowValues(node, seen)]));
  return rows.map((row, at) => {
    const value: Value = evaluate(
      column.expression,
      rowOf(row, binding, (node) => windows.get(node)?.[at] ?? null),
    );
    return new Map([...row, [column.id, value]]);
  });
}
