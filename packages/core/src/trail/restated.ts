import { ProblemError } from '../problem';
import type { Item } from '../steps';
import { applyEdit } from './apply-edits';
import { itemsOf } from './build';
import type { Definition } from './definition';
import type { Between, Edit } from './edits';
import { placeAt, placeOf } from './places';

/**
 * The same wish stated against another state of the document: each edit expects what stands there now, and so can be
 * taken back exactly. Undefined where a target is gone, or where an edit changes so much that it has to be made anew.
 */
export function restated(edits: readonly Edit[], definition: Definition): readonly Edit[] | undefined {
  const done: Edit[] = [];
  let current = definition;
  for (const edit of edits) {
    // Also one that fits may have been written for another place than the one it is taken back to.
    const next = [againstNow(edit, current), edit].find((each) => each !== undefined && fits(each, current));
    if (!next) return undefined;
    current = applyEdit(current, next);
    done.push(next);
  }
  return done;
}

function fits(edit: Edit, definition: Definition): boolean {
  try {
    applyEdit(definition, edit);
    return true;
  } catch (error) {
    if (error instanceof ProblemError) return false;
    throw error;
  }
}

function againstNow(edit: Edit, definition: Definition): Edit | undefined {
  const { steps, parameters, brief } = definition;
  const itemsIn = (id: string, list: string) => found(steps, id, (step) => itemsOf(step, list));
  switch (edit.kind) {
    case 'set title':
      return { ...edit, from: definition.title };
    case 'set step':
      return found(steps, edit.step, (step) => onto(edit, (step as unknown as Readonly<Record<string, unknown>>)[edit.property]));
    case 'set input':
      return found(steps, edit.step, (step) => ({ ...edit, from: step.inputs[edit.slot] ?? null }));
    case 'set result':
      return { ...edit, from: definition.result };
    case 'add item':
      return placed(edit, itemsIn(edit.step, edit.list));
    case 'set item':
      return found(itemsIn(edit.step, edit.list) ?? [], edit.from.id, (from) => ({ ...edit, from }));
    case 'remove item':
      return removed(edit, itemsIn(edit.step, edit.list) ?? []);
    case 'set calendar':
      return { ...edit, from: definition.calendar };
    case 'add parameter':
      return placed(edit, parameters);
    case 'set parameter':
      return found(parameters, edit.parameter, (parameter) => ({ ...edit, from: parameter[edit.property] }));
    case 'rename parameter':
      return found(parameters, edit.parameter, ({ name: from }) => ({ ...edit, from }));
    case 'remove parameter':
      return found(parameters, edit.parameter.id, (parameter) => ({ ...edit, parameter, at: placeOf(parameters, parameter.id) }));
    case 'set dataset':
      return onto(edit, definition[edit.property]);
    case 'set sheet':
      return { ...edit, from: definition.sheet.find((each) => each.field === edit.field)?.[edit.property] };
    case 'set request':
      return { ...edit, from: brief.request };
    case 'add wish':
      return placed(edit, brief.items);
    case 'set wish':
      return found(brief.items, edit.from.id, (from) => ({ ...edit, from }));
    case 'remove wish':
      return removed(edit, brief.items);
    case 'set proof':
      return { ...edit, from: definition.proof[edit.property] };
    // What stands around a step or a field decides what these change as well.
    case 'add step':
    case 'remove step':
    case 'move step':
    case 'rebind':
    case 'rename field':
    case 'move parameter':
      return undefined;
  }
}

/** A list of ids is no value of its own: what was put into it or taken out of it is, on top of what it holds now. */
function onto<E extends Edit & { readonly from: unknown; readonly to: unknown }>(edit: E, now: unknown): E {
  const { from, to } = edit;
  if (!isIds(from) || !isIds(to) || !isIds(now)) return { ...edit, from: now };
  const added = to.filter((each) => !from.includes(each) && !now.includes(each));
  const removed = from.filter((each) => !to.includes(each));
  const merged = [...now.filter((each) => !removed.includes(each)), ...added];
  // In the order that was wished for, as far as it was; what is new since stands behind.
  const place = (id: string) => (to.includes(id) ? to.indexOf(id) : to.length);
  return { ...edit, from: now, to: merged.toSorted((a, b) => place(a) - place(b)) };
}

const isIds = (value: unknown): value is readonly string[] => Array.isArray(value) && value.every((each) => typeof each === 'string');

function found<T extends Item, R>(items: readonly T[], id: string, read: (item: T) => R): R | undefined {
  const item = items.find((each) => each.id === id);
  return item && read(item);
}

function removed<E extends Edit & { readonly item: Item }>(edit: E, items: readonly Item[]): E | undefined {
  return found(items, edit.item.id, (item) => ({ ...edit, item, at: placeOf(items, item.id) }));
}

/** Behind the item it was to stand behind, or at the end where that is gone. */
function placed<E extends Edit & { readonly at: Between }>(edit: E, items: readonly Item[] | undefined): E | undefined {
  const { after } = edit.at;
  const at = after === null ? 0 : (items ?? []).findIndex((each) => each.id === after) + 1;
  return items && { ...edit, at: placeAt(items, after !== null && at === 0 ? items.length : at) };
}
