import { checkClause } from '../criteria';
import type { Condition } from '../criteria';
import type { Expression } from '../expressions';
import { typeWord } from '../fields';
import type { Problem } from '../problem';
import { warning } from '../problem';
import type { SheetField } from '../sheet';
import type { Layout, Mark, Total } from './layout';

/** The totals a layout asks for: those it names, or the sum of each measure that may be added. */
export function totalsOf(layout: Layout, fields: readonly SheetField[]): readonly Total[] {
  if (layout.totals) return layout.totals;
  return fields.flatMap(({ id, aggregates, forUseOnly }) =>
    !forUseOnly && aggregates.includes('sum') ? [{ field: id, aggregate: 'sum' as const }] : [],
  );
}

/** What a layout asks for that the fields do not give. The proof leaves it out and says so. */
export function layoutProblems(layout: Layout, fields: readonly SheetField[]): readonly Problem[] {
  const handed = (id: string) => fields.find((each) => each.id === id && !each.forUseOnly);
  const gone = (id: string, what: string) =>
    warning('proof-field-gone', `The proof ${what} a field that is not handed over.`, { field: id }, 'a field that is handed over');
  return [
    ...layout.levels.flatMap(({ field }) => (handed(field) ? [] : [gone(field, 'groups by')])),
    ...(layout.totals ?? []).flatMap(({ field, aggregate }) => {
      const found = handed(field);
      if (!found) return [gone(field, 'totals')];
      if (found.aggregates.includes(aggregate)) return [];
      const allowed = found.aggregates.join(', ') || 'no total at all';
      return [
        warning(
          'total-unsuited',
          `The ${aggregate} of ${found.name} is not allowed: it is a ${found.role} of type ${typeWord(found.type)}.`,
          { field },
          allowed,
        ),
      ];
    }),
    ...layout.marks.flatMap((mark) => {
      const found = handed(mark.field);
      return found
        ? markCondition(mark, found).problems.map((each) => ({ ...each, severity: 'warning' as const, place: { field: mark.field } }))
        : [gone(mark.field, 'marks')];
    }),
  ];
}

/** When a mark shows, as a condition on its field; none while it is unfinished or wrong. */
export function markCondition(
  mark: Mark,
  { field }: SheetField,
): { readonly expression?: Expression; readonly problems: readonly Problem[] } {
  const condition: Condition = {
    id: mark.id,
    kind: 'condition',
    off: false,
    field: mark.field,
    operator: mark.operator,
    operands: mark.operands.map((text) => ({ kind: 'value', text })),
    andNulls: false,
  };
  return checkClause(condition, { schema: { fields: [field] }, parameters: [] });
}

/** The layout without what its fields do not give. */
export function fittingLayout(layout: Layout, fields: readonly SheetField[]): Layout & { readonly totals: readonly Total[] } {
  const handed = (id: string) => fields.find((each) => each.id === id && !each.forUseOnly);
  const levels = layout.levels.filter(
    (each, index) => handed(each.field) && layout.levels.findIndex(({ field }) => field === each.field) === index,
  );
  const totals = totalsOf(layout, fields).filter((each) => handed(each.field)?.aggregates.includes(each.aggregate));
  const marks = layout.marks.filter((mark) => {
    const found = handed(mark.field);
    return found && markCondition(mark, found).expression !== undefined;
  });
  return { ...layout, levels, totals, marks };
}
