import type { Field } from '../fields';
import { readIn } from '../fields';
import type { ChoicesColumn, ChoicesTable } from './parameter';

/** A table as its source describes it, for choices to come from. */
export const choicesTable = (
  source: string,
  { schema, name: table, columns }: { readonly schema: string; readonly name: string; readonly columns: readonly ChoicesColumn[] },
): ChoicesTable => ({
  source,
  schema,
  table,
  columns: columns.map(({ name, sourceType, type, looseText }) => ({ name, sourceType, type, looseText })),
});

/** The columns of a table choices come from as fields, each told by its name. */
export const fieldsOfChoices = ({ columns }: ChoicesTable, zone: string | undefined): readonly Field[] =>
  columns.map(({ name, type }) => ({
    id: name,
    name,
    type: readIn(zone, type),
    role: 'attribute',
    origin: { step: '', column: name },
    forUseOnly: false,
  }));
