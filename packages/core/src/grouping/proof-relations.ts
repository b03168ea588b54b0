import type { SheetField } from '../sheet';
import type { Column } from '../sql';
import { withBeside } from './beside';
import { groupColumns } from './columns';
import { emptyPerGroup, hasEmptyGroups, withEmptyGroups } from './empty-groups';
import { readRows } from './first-groups';
import { grouped } from './groups';
import type { Layout, Total } from './layout';
import type { ProofRelations } from './lines';
import { linesOf } from './lines';

/** A result with row numbers, landed as `rows`, told as the lines of a proof. The layout fits the fields. */
export function proofRelations(
  layout: Layout & { readonly totals: readonly Total[] },
  fields: readonly SheetField[],
  stored: readonly Column[],
): ProofRelations {
  const rows = readRows(layout, fields, stored);
  const found = grouped(layout, fields, rows);
  // What is read several times is made once.
  const landed = hasEmptyGroups(layout) ? [{ handle: 'found', groups: found, emptyPerGroup: emptyPerGroup(layout) }] : [];
  const [kept] = landed.map(({ handle }) => ({ node: 'landed' as const, handle, columns: groupColumns(layout, fields) }));
  const groups = kept ? withEmptyGroups(kept, layout, fields) : found;
  return { landed, ...linesOf(layout, fields, stored, withBeside(groups, layout, fields, rows)) };
}
