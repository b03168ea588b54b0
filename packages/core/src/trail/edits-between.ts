import { LAYOUT_PROPERTIES } from '../grouping';
import { SHEET_PROPERTIES } from '../sheet';
import type { Step } from '../steps';
import { kindOf } from '../steps';
import { applyEdit } from './apply-edits';
import { addItem, itemsOf, moveParameter, removeItem, removeParameter, setItem, slotsOf } from './build';
import type { Definition } from './definition';
import type { Edit, Heir } from './edits';
import { DATASET_PROPERTIES, PARAMETER_PROPERTIES } from './edits';
import { equal } from './equal';
import { placeAt, placeOf } from './places';

/**
 * The edits that turn one definition into another, in words when they are told, and applied when an older state is
 * taken back. Applying them to `from` gives `to`.
 */
export function editsBetween(from: Definition, to: Definition): readonly Edit[] {
  const making = new Making(from);
  if (from.title !== to.title) making.put({ kind: 'set title', from: from.title, to: to.title });
  if (!equal(from.calendar, to.calendar)) making.put({ kind: 'set calendar', from: from.calendar, to: to.calendar });
  parameters(making, to);
  structure(making, to);
  for (const step of to.steps) contents(making, step);
  rest(making, to);
  return making.edits;
}

/** Edits and what they make so far: each next one is told from there. */
class Making {
  readonly edits: Edit[] = [];
  constructor(public current: Definition) {}

  put(edit: Edit): void {
    this.edits.push(edit);
    this.current = applyEdit(this.current, edit);
  }
}

function parameters(making: Making, to: Definition): void {
  const parameterIn = (id: string) => making.current.parameters.find((each) => each.id === id);
  for (const parameter of [...making.current.parameters].reverse()) {
    if (!to.parameters.some((each) => each.id === parameter.id)) making.put(removeParameter(making.current, parameter));
  }
  renamed(making, to);
  to.parameters.forEach((wanted, index) => {
    if (!parameterIn(wanted.id)) making.put({ kind: 'add parameter', parameter: wanted, at: placeAt(making.current.parameters, index) });
    const at = making.current.parameters.findIndex((each) => each.id === wanted.id);
    const moving = at === index ? undefined : moveParameter(making.current, wanted.id, index);
    if (moving) making.put(moving);
    for (const property of PARAMETER_PROPERTIES) {
      const [old, value] = [parameterIn(wanted.id)?.[property], wanted[property]];
      if (!equal(old, value)) making.put({ kind: 'set parameter', parameter: wanted.id, property, from: old, to: value });
    }
  });
}

/** Names are exchanged by way of names nobody has, for two of them may have been swapped. */
function renamed(making: Making, to: Definition): void {
  const wanted = to.parameters.flatMap((each) => {
    const old = making.current.parameters.find(({ id }) => id === each.id);
    return old && old.name !== each.name ? [{ id: each.id, name: each.name }] : [];
  });
  const taken = (name: string) => making.current.parameters.some((each) => each.name === name);
  for (const { id, name } of wanted.filter((each) => taken(each.name))) {
    const old = making.current.parameters.find((each) => each.id === id)?.name ?? '';
    let between = `${name}_1`;
    while (taken(between) || to.parameters.some((each) => each.name === between)) between += '1';
    making.put({ kind: 'rename parameter', parameter: id, from: old, to: between });
  }
  for (const { id, name } of wanted) {
    const old = making.current.parameters.find((each) => each.id === id)?.name ?? '';
    making.put({ kind: 'rename parameter', parameter: id, from: old, to: name });
  }
}

/** The same steps standing on the same inputs in the same order, and the same one handed over. */
function structure(making: Making, to: Definition): void {
  const wanted = new Map(to.steps.map((each) => [each.id, each]));
  const stepNow = (id: string) => making.current.steps.find((each) => each.id === id);
  // A step of another kind under an id that was used before is another step.
  const stays = (step: Step) => wanted.get(step.id)?.kind === step.kind;
  for (const step of [...making.current.steps].reverse()) if (!stays(step)) making.put(removal(making.current, step.id, to));
  to.steps.forEach((step, index) => {
    if (!stepNow(step.id)) making.put(addition(making.current, step, index, to));
  });
  to.steps.forEach(({ id }, index) => {
    const { steps } = making.current;
    if (steps[index]?.id === id) return;
    const rest = steps.filter((each) => each.id !== id);
    making.put({ kind: 'move step', step: id, from: placeOf(steps, id), to: placeAt(rest, index) });
  });
  for (const { id, inputs } of to.steps) {
    const slots = Math.max(inputs.length, stepNow(id)?.inputs.length ?? 0);
    for (let slot = 0; slot < slots; slot++) {
      const [from, value] = [stepNow(id)?.inputs[slot] ?? null, inputs[slot] ?? null];
      if (from !== value) making.put({ kind: 'set input', step: id, slot, from, to: value });
    }
  }
  if (making.current.result !== to.result) making.put({ kind: 'set result', from: making.current.result, to: to.result });
}

/** Slots that took the step's rows take at once what they take in the end, as far as that is there already. */
function removal(current: Definition, id: string, to: Definition): Edit {
  const { steps, result } = current;
  const step = steps.find((each) => each.id === id) as Step;
  const others = new Set(steps.flatMap((each) => (each.id === id ? [] : [each.id])));
  const there = (wanted: string | null | undefined) => (typeof wanted === 'string' && others.has(wanted) ? wanted : null);
  const heirs = slotsOf(current, id).map((each): Heir => {
    const wanted = to.steps.find((other) => other.id === each.step)?.inputs[each.slot];
    return { ...each, instead: there(wanted) ?? there(step.inputs.find((input) => input !== null)) };
  });
  const edit = { kind: 'remove step', step, at: placeOf(steps, id), heirs } as const;
  if (result !== id) return edit;
  return { ...edit, handedOver: { instead: there(to.result) ?? there(step.inputs.find((input) => input !== null)) } };
}

function addition(current: Definition, step: Step, index: number, to: Definition): Edit {
  const there = new Set(current.steps.map((each) => each.id));
  const heirs = slotsOf(to, step.id).flatMap((each): readonly Heir[] =>
    there.has(each.step) ? [{ ...each, instead: current.steps.find(({ id }) => id === each.step)?.inputs[each.slot] ?? null }] : [],
  );
  const edit = { kind: 'add step', step, at: placeAt(current.steps, index), heirs } as const;
  return to.result === step.id ? { ...edit, handedOver: { instead: current.result } } : edit;
}

function contents(making: Making, wanted: Step): void {
  const stepNow = () => making.current.steps.find((each) => each.id === wanted.id) as Step;
  const kind = kindOf(wanted);
  for (const list of Object.keys(kind.lists)) {
    items(itemsOf(stepNow(), list), itemsOf(wanted, list), {
      remove: (item) => making.put(removeItem(stepNow(), list, item)),
      add: (item, index) => making.put(addItem(stepNow(), list, item, index)),
      set: (old, value) => making.put(setItem(stepNow(), list, old, value)),
    });
  }
  for (const property of ['name', 'off', ...Object.keys(kind.properties)]) {
    const [from, to] = [stepNow(), wanted].map((each) => each[property as keyof Step] as unknown);
    if (!equal(from, to)) making.put({ kind: 'set step', step: wanted.id, property, from, to });
  }
}

interface ItemEdits<T> {
  remove(item: T): void;
  add(item: T, index: number): void;
  set(from: T, to: T): void;
}

/** Items by their ids: those gone, those new, those changed. Another order is left to an edit of the whole list. */
function items<T extends { readonly id: string }>(now: readonly T[], wanted: readonly T[], put: ItemEdits<T>): void {
  for (const item of [...now].reverse()) if (!wanted.some((each) => each.id === item.id)) put.remove(item);
  wanted.forEach((item, index) => {
    const old = now.find((each) => each.id === item.id);
    if (!old) put.add(item, index);
    else if (!equal(old, item)) put.set(old, item);
  });
}

function rest(making: Making, to: Definition): void {
  for (const property of DATASET_PROPERTIES) {
    const old = making.current[property];
    if (!equal(old, to[property])) making.put({ kind: 'set dataset', property, from: old, to: to[property] });
  }
  const entryIn = ({ sheet }: Definition, field: string) => sheet.find((each) => each.field === field);
  for (const field of new Set([...making.current.sheet, ...to.sheet].map((each) => each.field))) {
    for (const property of SHEET_PROPERTIES) {
      const [old, value] = [entryIn(making.current, field)?.[property], entryIn(to, field)?.[property]];
      if (!equal(old, value)) making.put({ kind: 'set sheet', field, property, from: old, to: value });
    }
  }
  if (making.current.brief.request !== to.brief.request)
    making.put({ kind: 'set request', from: making.current.brief.request, to: to.brief.request });
  items(making.current.brief.items, to.brief.items, {
    remove: (item) => making.put({ kind: 'remove wish', item, at: placeOf(making.current.brief.items, item.id) }),
    add: (item, index) => making.put({ kind: 'add wish', item, at: placeAt(making.current.brief.items, index) }),
    set: (old, value) => making.put({ kind: 'set wish', from: old, to: value }),
  });
  for (const property of LAYOUT_PROPERTIES) {
    const [old, value] = [making.current.proof[property], to.proof[property]];
    if (!equal(old, value)) making.put({ kind: 'set proof', property, from: old, to: value });
  }
}
