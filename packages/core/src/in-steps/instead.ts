import type { FieldId } from '../fields';
import { switchingOff } from '../parameters';
import type { Question } from '../questions';
import type { SqlStep, Step } from '../steps';
import { kindOf } from '../steps';
import type { Definition, Edit } from '../trail';
import { editsBetween } from '../trail';
import type { SaidText } from './say-text';

/**
 * The edits that put steps in the place of a text. What stands on it goes on: the last of them has its id, and each field the
 * id of the column it is; where a field is called otherwise now, it is so in what mentions it, and handed over under the name
 * it had.
 */
export function saidInstead(definition: Definition, text: SqlStep, said: SaidText & { readonly kind: 'said' }): readonly Edit[] {
  const instead = new Map<string, string>([[said.result, text.id]]);
  said.fields.forEach((field, at) => {
    const own = text.fields[at];
    if (own) instead.set(field.id, own.id);
  });
  const idOf = (id: string) => instead.get(id) ?? id;
  const own = said.steps.map((step): Step => {
    const moved = kindOf(step).withIds(step, idOf);
    return step.id === said.result && text.name !== '' ? { ...moved, name: text.name } : moved;
  });
  const renamed = said.fields.flatMap((field, at) => {
    const before = text.fields[at];
    return before && before.name !== field.name ? [{ id: before.id, from: before.name, to: field.name }] : [];
  });
  const others = (step: Step): Step => renamed.reduce((now, each) => kindOf(now).renamed(now, 'field', each.id, each.to), step);
  const at = definition.steps.findIndex((each) => each.id === text.id);
  const steps = [...definition.steps.slice(0, at), ...own, ...definition.steps.slice(at + 1).map(others)];
  const sheet = renamed.reduce((now, { id, from }) => namedAs(now, id, from), definition.sheet);
  const parameters = switchingOff(definition.parameters, said.off);
  return editsBetween(definition, { ...definition, steps, sheet, parameters });
}

/** Asks whether steps give the rows of the text they say. */
export const heldAgainst = (
  text: SqlStep,
  { steps, result, fields, off }: SaidText & { readonly kind: 'said' },
): Question & { kind: 'same rows' } => ({
  kind: 'same rows',
  step: text.id,
  steps,
  result,
  fields: fields.map(({ id }) => id),
  off,
});

/** A field handed over under a name, unless it has one already. */
function namedAs(sheet: Definition['sheet'], field: FieldId, name: string): Definition['sheet'] {
  const entry = sheet.find((each) => each.field === field);
  if (entry?.name !== undefined) return sheet;
  return entry ? sheet.map((each) => (each === entry ? { ...each, name } : each)) : [...sheet, { field, name }];
}
