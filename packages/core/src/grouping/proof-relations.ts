import type { Column } from '../sql';
import type { SheetField } from '../sheet';
import { withBeside } from './beside';
import type { Layout, Total } from './layout';
import type { ProofRelations } from './lines';
import { readRows } from './first-groups';
import { grouped } from './groups';
import { linesOf } from './lines';

/** A result with row numbers, landed as `rows`, told as the lines of a proof. The layout fits the fields. */
export function proofRelations(
  layout: Layout & { readonly totals: readonly Total[] },
  fields: readonly SheetField[],
  stored: readonly Column[],
): ProofRelations {
  const rows = readRows(layout, fields, stored);
  return linesOf(layout, fields, stored, withBeside(grouped(layout, fields, rows), layout, fields, rows));
}
