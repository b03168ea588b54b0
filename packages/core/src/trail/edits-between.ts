import type { Clause } from '../criteria';
import type { CalculatedField, Step } from '../steps';
import { LAYOUT_PROPERTIES } from '../grouping';
import { SHEET_PROPERTIES } from '../sheet';
import { applyEdit } from './apply-edits';
import type { Definition } from './definition';
import type { Edit, StepProperty } from './edits';
import { DATASET_PROPERTIES, PARAMETER_PROPERTIES, STEP_PROPERTIES } from './edits';
import { equal } from './equal';

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
  for (const [index, parameter] of [...making.current.parameters.entries()].reverse()) {
    if (!to.parameters.some((each) => each.id === parameter.id)) making.put({ kind: 'remove parameter', parameter, index });
  }
  renamed(making, to);
  to.parameters.forEach((wanted, index) => {
    if (!parameterIn(wanted.id)) making.put({ kind: 'add parameter', parameter: wanted, index });
    const at = making.current.parameters.findIndex((each) => each.id === wanted.id);
    if (at !== index) making.put({ kind: 'move parameter', parameter: wanted.id, from: at, to: index });
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

const shapeOf = (steps: readonly Step[]) => steps.map(({ id, kind, inputs }) => ({ id, kind, inputs }));

/** The same steps standing on the same inputs. Where taking out and putting in single ones does not lead there, all from the first difference on are made anew. */
function structure(making: Making, to: Definition): void {
  const before = { edits: making.edits.length, definition: making.current };
  try {
    single(making, to);
  } catch {
    // Tried on a copy that is thrown away; what follows always succeeds.
  }
  if (equal(shapeOf(making.current.steps), shapeOf(to.steps))) return;
  making.edits.length = before.edits;
  making.current = before.definition;
  const shapes = [shapeOf(making.current.steps), shapeOf(to.steps)] as const;
  const same = shapes[1].findIndex((each, index) => !equal(each, shapes[0][index]));
  const kept = same < 0 ? to.steps.length : same;
  for (const step of making.current.steps.slice(kept).reverse())
    making.put({ kind: 'remove step', step, after: step.inputs[0] ?? null, heirs: [] });
  to.steps
    .slice(kept)
    .forEach((step, index) => making.put({ kind: 'add step', step, after: to.steps[kept + index - 1]?.id ?? null, heirs: [] }));
}

function single(making: Making, to: Definition): void {
  for (const { id } of [...making.current.steps].reverse()) {
    if (to.steps.some((each) => each.id === id)) continue;
    const step = making.current.steps.find((each) => each.id === id);
    if (!step) continue;
    const heirs = making.current.steps.filter((each) => each.inputs.includes(id)).map((each) => each.id);
    making.put({ kind: 'remove step', step, after: step.inputs[0] ?? null, heirs });
  }
  to.steps.forEach((step) => {
    if (making.current.steps.some((each) => each.id === step.id)) return;
    const after = step.inputs[0] ?? null;
    const heirs = making.current.steps
      .filter(
        (each) =>
          after !== null &&
          each.inputs.includes(after) &&
          to.steps.some((wanted) => wanted.id === each.id && wanted.inputs.includes(step.id)),
      )
      .map((each) => each.id);
    making.put({ kind: 'add step', step, after, heirs });
  });
}

function contents(making: Making, wanted: Step): void {
  const stepNow = () => making.current.steps.find((each) => each.id === wanted.id);
  const now = stepNow();
  if (now?.kind === 'calculate' && wanted.kind === 'calculate') calculatedFields(making, wanted.id, now.fields, wanted.fields);
  if (now?.kind === 'criteria' && wanted.kind === 'criteria') clauses(making, wanted.id, now.clauses, wanted.clauses);
  for (const property of STEP_PROPERTIES) {
    const current = stepNow();
    if (!current || !(property in current)) continue;
    const [old, value] = [valueOf(current, property), valueOf(wanted, property)];
    if (!equal(old, value)) making.put({ kind: 'set step', step: wanted.id, property, from: old, to: value });
  }
}

const valueOf = (step: Step, property: StepProperty): unknown => (step as unknown as Record<string, unknown>)[property];

function clauses(making: Making, step: string, now: readonly Clause[], wanted: readonly Clause[]): void {
  items(now, wanted, {
    remove: (clause, index) => making.put({ kind: 'remove clause', step, clause, index }),
    add: (clause, index) => making.put({ kind: 'add clause', step, clause, index }),
    set: (old, value) => making.put({ kind: 'set clause', step, from: old, to: value }),
  });
}

function calculatedFields(making: Making, step: string, now: readonly CalculatedField[], wanted: readonly CalculatedField[]): void {
  items(now, wanted, {
    remove: (field, index) => making.put({ kind: 'remove calculated', step, field, index }),
    add: (field, index) => making.put({ kind: 'add calculated', step, field, index }),
    set: (old, value) => making.put({ kind: 'set calculated', step, from: old, to: value }),
  });
}

interface ItemEdits<T> {
  remove(item: T, index: number): void;
  add(item: T, index: number): void;
  set(from: T, to: T): void;
}

/** Items by their ids: those gone, those new, those changed. Another order is left to an edit of the whole list. */
function items<T extends { readonly id: string }>(now: readonly T[], wanted: readonly T[], put: ItemEdits<T>): void {
  for (const [index, item] of [...now.entries()].reverse()) if (!wanted.some((each) => each.id === item.id)) put.remove(item, index);
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
    remove: (item, index) => making.put({ kind: 'remove wish', item, index }),
    add: (item, index) => making.put({ kind: 'add wish', item, index }),
    set: (old, value) => making.put({ kind: 'set wish', from: old, to: value }),
  });
  for (const property of LAYOUT_PROPERTIES) {
    const [old, value] = [making.current.proof[property], to.proof[property]];
    if (!equal(old, value)) making.put({ kind: 'set proof', property, from: old, to: value });
  }
}
