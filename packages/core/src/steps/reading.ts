import { recogniseRole } from '../fields';
import type { CatalogueColumn, CatalogueKey } from './catalogue';
import type { TableField, TableStep } from './table';
import { keysOf } from './table';

/** A table as its source describes it. */
export interface ReadTable {
  readonly schema: string;
  readonly name: string;
  readonly columns: readonly (CatalogueColumn & {
    readonly primaryKey: boolean;
    readonly foreignKey: boolean;
    readonly unique: boolean;
  })[];
  readonly keys: readonly CatalogueKey[];
}

/** A step that reads a table as it is described now; none of its fields is taken. */
export function tableStep(mint: () => string, source: string, described: ReadTable): TableStep {
  const fields = described.columns.map((column): TableField => ({
    id: mint(),
    column: column.name,
    sourceType: column.sourceType,
    type: column.type,
    role: recogniseRole(column),
    looseText: column.looseText,
  }));
  return {
    id: mint(),
    kind: 'table',
    name: '',
    off: false,
    inputs: [],
    source,
    schema: described.schema,
    table: described.name,
    fields,
    taken: [],
    keys: keysOf(fields, described),
  };
}
