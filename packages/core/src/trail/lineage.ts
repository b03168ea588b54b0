import { kindOf } from '../steps';
import type { FieldId } from '../fields';
import type { CheckedTrail } from './check';

/** Where a field comes from, and what it goes into. */
export interface Lineage {
  /** Columns of sources its values are made of. */
  readonly columns: readonly { readonly step: string; readonly source: string; readonly table: string; readonly column: string }[];
  /** Steps it is made in or of, by their titles, in the order of the trail. */
  readonly madeIn: readonly { readonly step: string; readonly title: string; readonly how: string }[];
  /** Steps that ask about it or calculate with it. */
  readonly usedIn: readonly { readonly step: string; readonly title: string }[];
}

/** Computed from the trail, and never used as a field's identity. */
export function lineageOf(trail: CheckedTrail, id: FieldId): Lineage {
  const made = ancestors(trail, id, new Set());
  const titleOf = (step: string) => trail.steps.find((each) => each.step.id === step)?.title ?? step;
  const columns = trail.definition.steps.flatMap((step) =>
    step.kind === 'table'
      ? step.fields
          .filter((each) => made.has(each.id))
          .map(({ column }) => ({ step: step.id, source: step.source, table: `${step.schema}.${step.table}`, column }))
      : [],
  );
  const madeIn = trail.definition.steps.flatMap((step) => {
    if (step.kind === 'table') {
      const read = step.fields.filter((each) => made.has(each.id)).map((each) => each.column);
      return read.length > 0 ? [{ step: step.id, title: titleOf(step.id), how: `reads ${read.join(', ')}` }] : [];
    }
    if (step.kind !== 'calculate') return [];
    return step.fields
      .filter((each) => made.has(each.id))
      .map((each) => ({ step: step.id, title: titleOf(step.id), how: `${each.name} = ${each.expression.text.replace(/\s+/g, ' ')}` }));
  });
  const usedIn = trail.definition.steps.flatMap((step) =>
    kindOf(step)
      .uses(step, trail.definition.parameters)
      .some((use) => use.kind === 'field' && use.id === id)
      ? [{ step: step.id, title: titleOf(step.id) }]
      : [],
  );
  return { columns, madeIn, usedIn };
}

/** The field and all it is calculated from. */
function ancestors(trail: CheckedTrail, id: FieldId, seen: Set<FieldId>): ReadonlySet<FieldId> {
  if (seen.has(id)) return seen;
  seen.add(id);
  for (const step of trail.definition.steps) {
    const field = step.kind === 'calculate' ? step.fields.find((each) => each.id === id) : undefined;
    for (const ref of field?.expression.refs ?? []) if (ref.kind === 'field') ancestors(trail, ref.id, seen);
  }
  return seen;
}
