import { z } from 'zod';
import { expressionTextShape } from '../criteria';
import type { Expression, ExpressionText } from '../expressions';
import { blanksAsNull, evaluate, failureOf, linkReferences, renameReference, windowsOf, windowValues } from '../expressions';
import type { Schema } from '../fields';
import type { Binding } from '../parameters';
import type { LevelledColumn, Relation } from '../sql';
import { calculated } from '../sql';
import type { Value } from '../values';
import { checkCalculated } from './calculated-fields';
import { rowOf } from './rows';
import type { Rows, StepBase, StepContext, StepKind } from './step';
import { stepBase } from './step';

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

export const calculatedFieldShape: z.ZodType<CalculatedField> = z.strictObject({
  id: z.string().min(1).max(64),
  name: z.string().max(200),
  expression: expressionTextShape,
});

const shape: z.ZodType<CalculateStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('calculate'),
  fields: z.array(calculatedFieldShape).max(200),
});

export const calculateKind: StepKind<CalculateStep> = {
  kind: 'calculate',
  inputs: 1,
  shape,
  check: (step, [input = EMPTY], context) => {
    const { schema, fields } = checkCalculated(step, input, context);
    return { schema, problems: fields.flatMap((each) => each.problems) };
  },
  sentence: ({ fields }) => {
    const names = fields.map((each) => each.name || 'a field without a name');
    if (names.length === 0) return 'with nothing calculated yet';
    const shown = names.length > 3 ? [...names.slice(0, 2), `${names.length - 2} more`] : names;
    return `with ${shown.length > 1 ? `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}` : shown[0]}`;
  },
  relation: (step, [input], [schema = EMPTY], context) => {
    if (!input) throw new RangeError('a calculate step has one input');
    return calculateRelation(step, input, schema, context, false);
  },
  rows: (step, [input], context) => {
    if (!input) throw new RangeError('a calculate step has one input');
    const columns = calculatedColumns(step, input.schema, context);
    const rows = columns.reduce((done, column) => withValue(done, column, context.binding), input.rows);
    return { schema: checkCalculated(step, input.schema, context).schema, rows };
  },
  uses: (step, parameters) =>
    step.fields.flatMap(({ expression }) => [...expression.refs, ...linkReferences(expression.text, { schema: EMPTY, parameters }).refs]),
  renamed: (step, kind, id, name) => ({
    ...step,
    fields: step.fields.map((field) => ({ ...field, expression: renameReference(field.expression, kind, id, name) })),
  }),
  withoutValues: (step) => ({ ...step, name: '', fields: step.fields.map((field) => ({ ...field, expression: { text: '', refs: [] } })) }),
};

const EMPTY: Schema = { fields: [] };

/** The step's fields as typed columns, blank parameters as nulls. Called only for a step without errors. */
export function calculatedColumns(
  step: CalculateStep,
  schema: Schema,
  context: StepContext & { readonly binding: Binding },
): readonly LevelledColumn[] {
  return checkCalculated(step, schema, context).fields.flatMap(({ field, expression }) =>
    expression
      ? [{ id: field.id, name: field.name, type: expression.type, expression: blanksAsNull(expression, context.binding.blanks) }]
      : [],
  );
}

/** What the step stands for; on request with a column behind each field that can fail, saying where it did. */
export function calculateRelation(
  step: CalculateStep,
  input: Relation,
  schema: Schema,
  context: StepContext & { readonly binding: Binding },
  withFailures: boolean,
): Relation {
  const columns = calculatedColumns(step, schema, context);
  if (columns.length === 0) return input;
  const title = step.name || calculateKind.sentence(step, [schema], context);
  return calculated(input, withFailures ? columns.map(failing) : columns, title);
}

function failing(column: LevelledColumn): LevelledColumn {
  const failure = failureOf(column.expression);
  return failure ? { ...column, failure } : column;
}

function withValue(rows: Rows['rows'], column: { readonly id: string; readonly expression: Expression }, binding: Binding): Rows['rows'] {
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
