import { z } from 'zod';
import type { Field, FieldType, Role, Schema } from '../fields';
import { sameType, TYPE_KINDS, typeWord } from '../fields';
import type { Problem } from '../problem';
import { problem } from '../problem';
import { postgresqlType } from '../sql';
import type { Relation } from '../sql';
import type { Rows, StepBase, StepContext, StepKind } from './step';
import { stepBase } from './step';

/** A column of the table as it was when the step was made. The field's id is minted here and never changes. */
export interface TableField {
  readonly id: string;
  readonly column: string;
  readonly sourceType: string;
  readonly type: FieldType;
  readonly role: Role;
  readonly looseText: boolean;
}

/** Reads a table or view of a source. Only taken fields are handed on; the others are for use only. */
export interface TableStep extends StepBase {
  readonly kind: 'table';
  readonly source: string;
  readonly schema: string;
  readonly table: string;
  readonly fields: readonly TableField[];
  /** Ids of the fields that are handed on, in their order. */
  readonly taken: readonly string[];
}

export const typeShape: z.ZodType<FieldType> = z.union([
  z.strictObject({
    kind: z.literal('decimal'),
    precision: z.int().min(1).max(38),
    scale: z.int().min(0).max(38),
    open: z.literal(true).optional(),
  }) as z.ZodType<FieldType>,
  z.strictObject({
    kind: z.enum(TYPE_KINDS.filter((each) => each !== 'decimal') as [Exclude<FieldType['kind'], 'decimal'>]),
  }) as z.ZodType<FieldType>,
]);

const id = z.string().min(1).max(64);
const identifier = z.string().min(1).max(256);

const shape: z.ZodType<TableStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('table'),
  source: id,
  schema: identifier,
  table: identifier,
  fields: z
    .array(
      z.strictObject({
        id,
        column: identifier,
        sourceType: z.string().max(300),
        type: typeShape,
        role: z.enum(['key', 'measure', 'attribute', 'date', 'code']),
        looseText: z.boolean(),
      }),
    )
    .max(2_000),
  taken: z.array(id).max(2_000),
});

export const tableKind: StepKind<TableStep> = {
  kind: 'table',
  inputs: 0,
  shape,
  check: (step, _inputs, context) => ({ schema: schemaOf(step), problems: problemsOf(step, context) }),
  sentence: (step) => step.table,
  relation: (step): Relation => ({
    node: 'table',
    name: step.name || step.table,
    site: { kind: 'source', source: step.source },
    schema: step.schema,
    table: step.table,
    columns: step.fields.map(({ id, column, type, sourceType, looseText }) => ({ id, name: column, type, column, sourceType, looseText })),
  }),
  rows: (step, _inputs, { tables }): Rows => ({
    schema: schemaOf(step),
    rows: tables(step.source, step.schema, step.table).map(
      (row) => new Map(step.fields.map((field) => [field.id, row.get(field.column) ?? null])),
    ),
  }),
  uses: () => [],
  renamed: (step) => step,
  withoutValues: (step) => step,
};

/** Taken fields first, in their order; the rest behind them, for use only. */
function schemaOf(step: TableStep): Schema {
  const field = (each: TableField, forUseOnly: boolean): Field => ({
    id: each.id,
    name: each.column,
    type: each.type,
    role: each.role,
    origin: { step: step.id, column: each.column },
    forUseOnly,
  });
  const taken = step.taken.flatMap((id) => step.fields.find((each) => each.id === id) ?? []);
  const rest = step.fields.filter((each) => !step.taken.includes(each.id));
  return { fields: [...taken.map((each) => field(each, false)), ...rest.map((each) => field(each, true))] };
}

function problemsOf(step: TableStep, context: StepContext): readonly Problem[] {
  const place = { step: step.id };
  const known = context.catalogue(step.source, step.schema, step.table);
  if (known === undefined) return [];
  if (known === 'gone') {
    return [
      problem(
        'table-gone',
        `The source has no table ${step.schema}.${step.table} that can be read.`,
        place,
        'the table it was made with, or another one',
      ),
    ];
  }
  return step.fields.flatMap((field): Problem[] => {
    const column = known.find((each) => each.name === field.column);
    const at = { ...place, field: field.id };
    const used = step.taken.includes(field.id);
    if (!column) {
      const gone = problem(
        'column-gone',
        `The column ${field.column} of ${step.table} is gone.`,
        at,
        'a column of this name, or leave the field out',
      );
      return [used ? gone : { ...gone, severity: 'hint' }];
    }
    if (column.sourceType === field.sourceType) return [];
    const now = postgresqlType(column.sourceType);
    const retyped = `The column ${field.column} of ${step.table} was ${field.sourceType} and is now ${column.sourceType}.`;
    const expected = `${typeWord(field.type)}, or take the new type over`;
    return [
      sameType(now, field.type)
        ? { ...problem('column-retyped', retyped, at, expected), severity: 'hint' }
        : problem('column-retyped', retyped, at, expected),
    ];
  });
}
