import { z } from 'zod';
import { idShape as id } from '../ids';
import type { Field, FieldType, Role, Schema } from '../fields';
import { readIn, sameType, typeShape, typeWord } from '../fields';
import type { Calendar } from '../values';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Catalogue, CatalogueEntry } from './catalogue';
import { tellingKeys } from './catalogue';
import type { Grain } from './grain';
import type { PropertyChange, StepKind } from './kind';
import type { RowWords } from './row-words';
import { rowWordsShape } from './row-words';
import type { CheckContext, StepBase } from './step';
import { NO_INPUT, stepBase } from './step';

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
  /** Sets of fields that tell rows apart, as they were when the step was made. */
  readonly keys: readonly (readonly string[])[];
  /** What its rows are called; left out until somebody names them. */
  readonly called?: RowWords;
}

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
  keys: z.array(z.array(id).min(1).max(64)).max(100),
  called: rowWordsShape.optional() as z.ZodType<RowWords>,
});

const pointed =
  (property: string) =>
  ({ to, title }: PropertyChange) =>
    `pointed ${title} to ${property} ${String(to)}`;

export const tableKind: StepKind<TableStep, null> = {
  kind: 'table',
  inputs: NO_INPUT,
  shape,
  properties: {
    taken: takenSentence,
    fields: ({ title }) => `took over the columns of ${title} as they are now`,
    keys: ({ title }) => `took over the keys of ${title} as they are now`,
    called: ({ to, title }) =>
      to === undefined ? `took back what rows of ${title} are called` : `called the rows of ${title} ${(to as RowWords).rows}`,
    source: pointed('source'),
    schema: pointed('schema'),
    table: pointed('table'),
  },
  lists: {},
  mints: (step) => step.fields.map((each) => each.id),
  sources: (step) => [step.source],
  carries: () => undefined,
  origin: (step, field) => {
    const found = step.fields.find((each) => each.id === field);
    if (!found) return undefined;
    const column = { source: step.source, table: `${step.schema}.${step.table}`, column: found.column };
    return { column, fields: [], how: `reads ${found.column}` };
  },
  check: (step, _arriving, context) => ({
    schema: schemaOf(step, context.calendar),
    grain: grainOf(step, context.catalogue),
    problems: problemsOf(step, context),
    checked: null,
  }),
  sentence: (step) => step.table,
  mentions: () => [],
  unasked: () => undefined,
  relation: ({ step, schema }) => {
    const types = new Map(schema.fields.map(({ id, type }) => [id, type]));
    return {
      node: 'table',
      name: step.name || step.table,
      site: { kind: 'source', source: step.source },
      schema: step.schema,
      table: step.table,
      columns: step.fields.map(({ id, column, type, sourceType, looseText }) => ({
        id,
        name: column,
        type: types.get(id) ?? type,
        column,
        sourceType,
        looseText,
      })),
    };
  },
  rows: ({ step }, _inputs, _binding, tables) =>
    tables(step.source, step.schema, step.table).map(
      (row) => new Map(step.fields.map((field) => [field.id, row.get(field.column) ?? null])),
    ),
  counted: { by: 'a statement of its own' },
  followed: () => {
    throw new RangeError('nothing arrives at a table');
  },
  written: () => [],
  uses: () => [],
  renamed: (step) => step,
  fieldName: () => undefined,
  withFieldNamed: (step) => step,
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    fields: step.fields.map((each) => ({ ...each, id: idOf(each.id) })),
    taken: step.taken.map(idOf),
    keys: step.keys.map((key) => key.map(idOf)),
  }),
  withoutValues: (step) => step,
};

/** The keys of a table as sets of a step's fields. Those over a column that is no field tell nothing to it. */
export function keysOf(fields: readonly TableField[], entry: Pick<CatalogueEntry, 'columns' | 'keys'>): readonly (readonly string[])[] {
  const idOf = new Map(fields.map((each) => [each.column, each.id]));
  return tellingKeys(entry).flatMap((columns) => {
    const ids = columns.flatMap((each) => idOf.get(each) ?? []);
    return ids.length === columns.length ? [ids] : [];
  });
}

function grainOf(step: TableStep, catalogue: Catalogue): Grain {
  const known = catalogue(addressOf(step));
  const words = step.called ?? { row: `row of ${step.table}`, rows: `rows of ${step.table}` };
  return { ...words, keys: known === undefined || known === 'gone' ? step.keys : keysOf(step.fields, known) };
}

const addressOf = ({ source, schema, table }: TableStep) => ({ kind: 'table', source, schema, table }) as const;

/** Taken fields first, in their order; the rest behind them, for use only. */
function schemaOf(step: TableStep, { zone }: Calendar): Schema {
  const field = (each: TableField, forUseOnly: boolean): Field => ({
    id: each.id,
    name: each.column,
    type: readIn(zone, each.type),
    role: each.role,
    origin: { step: step.id, column: each.column },
    forUseOnly,
  });
  const taken = step.taken.flatMap((id) => step.fields.find((each) => each.id === id) ?? []);
  const rest = step.fields.filter((each) => !step.taken.includes(each.id));
  return { fields: [...taken.map((each) => field(each, false)), ...rest.map((each) => field(each, true))] };
}

function problemsOf(step: TableStep, context: CheckContext): readonly Problem[] {
  const place = { step: step.id };
  const known = context.catalogue(addressOf(step));
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
    const column = known.columns.find((each) => each.name === field.column);
    const at = { ...place, field: field.id };
    if (!column) {
      // A join or a condition reads a column also where it is not taken.
      const used = step.taken.includes(field.id) || context.used?.(field.id) === true;
      const gone = problem(
        'column-gone',
        `The column ${field.column} of ${step.table} is gone.`,
        at,
        'a column of this name, or leave the field out',
      );
      return [used ? gone : { ...gone, severity: 'hint' }];
    }
    if (column.sourceType === field.sourceType) return [];
    const retyped = `The column ${field.column} of ${step.table} was ${field.sourceType} and is now ${column.sourceType}.`;
    const found = problem('column-retyped', retyped, at, `${typeWord(field.type)}, or take the new type over`);
    return [sameType(column.type, field.type) ? { ...found, severity: 'hint' } : found];
  });
}

function takenSentence({ from, to, title }: PropertyChange): string {
  const [old, now] = [from as readonly string[], to as readonly string[]];
  const added = now.filter((each) => !old.includes(each)).length;
  const left = old.filter((each) => !now.includes(each)).length;
  const fields = (count: number) => `${count} field${count === 1 ? '' : 's'}`;
  if (added > 0 && left > 0) return `took ${fields(added)} of ${title} and left out ${fields(left)}`;
  if (added > 0) return `took ${fields(added)} of ${title}`;
  return left > 0 ? `left out ${fields(left)} of ${title}` : `changed the order of the fields of ${title}`;
}
