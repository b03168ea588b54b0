import type { FieldId } from '../fields';
import type { Step } from '../steps';
import { ofKind } from '../steps';
import type { CheckedTrail } from './checked-trail';
import type { Edit } from './edits';
import { behindResult } from './sentence';

/**
 * The fields a trail brings along without handing them over, because nobody has taken them where they come in: at a table,
 * or as a partner's of a join. Where a step behind chooses the fields, none is: taking one there would not hand it on.
 */
export function untakenFields(trail: CheckedTrail): ReadonlySet<FieldId> {
  const behind = behindResult(trail);
  if (behind.some(({ step }) => (ofKind('arrange', step)?.fields ?? null) !== null)) return new Set();
  return new Set(behind.flatMap(({ step }) => untakenAt(step)));
}

/** The edits that take a field where it comes in; none where it is taken. */
export function takeFieldEdits(trail: CheckedTrail, field: FieldId): readonly Edit[] {
  return behindResult(trail).flatMap(({ step }): readonly Edit[] => {
    const own = takenAt(step);
    if (!own || !untakenAt(step).includes(field)) return [];
    return [{ kind: 'set step', step: step.id, property: 'taken', from: own.taken, to: [...own.taken, field] }];
  });
}

/** A step that says itself which of its fields are handed on: a table, or a join of a partner’s. */
export const takenAt = (step: Step) => ofKind('table', step) ?? ofKind('join', step);

function untakenAt(step: Step): readonly FieldId[] {
  const own = step.off ? undefined : takenAt(step);
  return own ? own.fields.flatMap(({ id }: { readonly id: FieldId }) => (own.taken.includes(id) ? [] : [id])) : [];
}
