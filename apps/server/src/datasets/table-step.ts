import { randomBytes } from 'node:crypto';
import type { TableField, TableStep } from '@cendra/core';
import { keysOf, recogniseRole } from '@cendra/core';
import type { DescribedTable } from '../sources';

export const mintId = () => randomBytes(9).toString('base64url');

/** A step that reads a table as it is described now; none of its fields is taken. */
export function tableStep(source: string, described: DescribedTable): TableStep {
  const fields = described.columns.map((column): TableField => ({
    id: mintId(),
    column: column.name,
    sourceType: column.sourceType,
    type: column.type,
    role: recogniseRole(column),
    looseText: column.looseText,
  }));
  return {
    id: mintId(),
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
