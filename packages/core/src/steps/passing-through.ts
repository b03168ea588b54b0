import type { Expression } from '../expressions';
import { fieldsUsed, withFields } from '../expressions';
import type { FieldId } from '../fields';
import type { Through } from './kind';
import type { StepBase } from './step';

/**
 * The condition that finds followed rows behind a step, by fields that came through it; undefined where one of
 * them did not.
 */
export function stillKnown<S extends StepBase, C>(
  { checked, slot, known }: Pick<Through<S, C>, 'checked' | 'slot' | 'known'>,
  carries: (step: S, slot: number, field: FieldId) => FieldId | undefined,
): Expression | undefined {
  const ids = new Map<FieldId, FieldId>();
  for (const id of fieldsUsed(known)) {
    const now = carries(checked.step, slot, id);
    if (now === undefined) return undefined;
    ids.set(id, now);
  }
  return withFields(known, ids);
}

/** Fields keep their ids where they pass through the only slot. */
export const sameField = (_step: StepBase, slot: number, field: FieldId): FieldId | undefined => (slot === 0 ? field : undefined);
