import type { Condition } from '../criteria';
import { operatorByWord } from '../criteria';
import type { Field } from '../fields';
import type { Parameter } from '../parameters';
import { parameterTypeFor } from '../parameters';
import type { Arriving, Catalogue, Item, JoinStep, RowWords, Step, TableStep } from '../steps';
import { calledInFront, joinStep, kindOf, NOTHING_ARRIVES, readsSource } from '../steps';
import { applyEdit } from './apply-edits';
import { checkTrail } from './check';
import { checkedStep } from './checked-trail';
import type { Definition } from './definition';
import type { Edit, Heir } from './edits';
import { placeAt, placeAtEnd, placeOf } from './places';

/** Gives a new id; the caller brings the randomness, so that building edits stays deterministic in tests. */
export type Mint = () => string;

type Shape = Pick<Definition, 'steps' | 'result'>;

/** Every slot a step stands in. */
export function slotsOf({ steps }: Pick<Shape, 'steps'>, id: string): readonly { readonly step: string; readonly slot: number }[] {
  return steps.flatMap((step) => step.inputs.flatMap((each, slot) => (each === id ? [{ step: step.id, slot }] : [])));
}

/** Every slot that takes a step's rows: a script that goes on in its session takes none. */
function takersOf({ steps }: Pick<Shape, 'steps'>, id: string): readonly { readonly step: string; readonly slot: number }[] {
  const others = new Set(steps.flatMap((each) => (readsSource(each) ? [each.id] : [])));
  return slotsOf({ steps }, id).filter(({ step }) => !others.has(step));
}

/**
 * Puts a step behind another one: every slot that took the other's rows takes the new step's, and it is handed over
 * where the other was. Without another it stands at the beginning by itself.
 */
export function addStepAfter(definition: Shape, after: string | null, step: Step): Edit & { kind: 'add step' } {
  const { steps, result } = definition;
  const index = after === null ? 0 : steps.findIndex((each) => each.id === after) + 1;
  const heirs = after === null ? [] : takersOf(definition, after).map((each): Heir => ({ ...each, instead: after }));
  const edit = { kind: 'add step', step, at: placeAt(steps, index), heirs } as const;
  return result === after ? { ...edit, handedOver: { instead: after } } : edit;
}

/**
 * Removes a step: slots that took its rows take those of its first input, which is also handed over where the step
 * was; without one they stay empty. Undefined where the step is handed over and nothing is there to stand in.
 */
export function removeStepEdit(definition: Shape, stepId: string): (Edit & { kind: 'remove step' }) | undefined {
  const { steps, result } = definition;
  const step = steps.find((each) => each.id === stepId);
  if (!step) return undefined;
  const instead = step.inputs.find((each) => each !== null) ?? null;
  const heirs = slotsOf(definition, stepId).map((each): Heir => ({ ...each, instead }));
  const edit = { kind: 'remove step', step, at: placeOf(steps, stepId), heirs } as const;
  if (result !== stepId) return edit;
  return instead === null && steps.length > 1 ? undefined : { ...edit, handedOver: { instead } };
}

/** What is brought in: a step that is on the trail, or a table that comes with it. */
export type Partner = { readonly step: string } | { readonly table: TableStep };

/** What is brought in, as an input of a step: the table step, where it is a new one, the step whose rows it gives, and what those are. */
export function partnerInput(
  definition: Definition,
  catalogue: Catalogue,
  partner: Partner,
  index: number,
): { readonly edits: readonly Edit[]; readonly step: string; readonly arriving: Arriving; readonly made: Definition } {
  const edits: readonly Edit[] =
    'table' in partner ? [{ kind: 'add step', step: partner.table, at: placeAt(definition.steps, index), heirs: [] }] : [];
  const step = 'table' in partner ? partner.table.id : partner.step;
  const made = edits.reduce(applyEdit, definition);
  return { edits, step, made, arriving: checkedStep(checkTrail(made, catalogue), step) ?? NOTHING_ARRIVES };
}

/**
 * Joins rows of a step with others: one batch makes the table step, where it is a new one, and the join, which takes the
 * step's place where that was used, as far as that stands behind both.
 */
export function bringInEdits(
  mint: Mint,
  definition: Definition,
  after: string,
  partner: Partner,
  catalogue: Catalogue,
  role: RowWords | null = null,
): { readonly edits: readonly Edit[]; readonly step: string } {
  const index = definition.steps.findIndex((each) => each.id === after) + 1;
  const { edits: table, step: second, made, arriving } = partnerInput(definition, catalogue, partner, index);
  const own = checkedStep(checkTrail(definition, catalogue), after) ?? NOTHING_ARRIVES;
  const called = 'table' in partner ? partner.table.table : calledInFront(arriving);
  const join = joinStep(mint, [after, second], [own, arriving], called, role);
  const { steps, result } = made;
  const at = 1 + Math.max(...[after, second].map((id) => steps.findIndex((each) => each.id === id)));
  const behind = new Set(steps.slice(at).map((each) => each.id));
  const heirs = takersOf(made, after)
    .filter((each) => behind.has(each.step))
    .map((each): Heir => ({ ...each, instead: after }));
  const add = { kind: 'add step', step: join, at: placeAt(steps, at), heirs } as const;
  const edits = [...table, result === after ? { ...add, handedOver: { instead: after } } : add];
  return { edits, step: join.id };
}

/**
 * Fills a slot of a join nothing comes into any more. Fields of the second side are found by what they were called, and
 * go on under their ids; what uses fields of the first side says what is missing.
 */
export function refillEdits(definition: Definition, catalogue: Catalogue, join: JoinStep, slot: number, partner: Partner): readonly Edit[] {
  const at = definition.steps.findIndex((each) => each.id === join.id);
  const { edits: table, step: second, arriving } = partnerInput(definition, catalogue, partner, at);
  const set: Edit = { kind: 'set input', step: join.id, slot, from: join.inputs[slot] ?? null, to: second };
  if (slot === 0) return [...table, set];
  const fields = join.fields.map((field) => {
    const suits = arriving.schema.fields.find(({ name }) => name === field.name || field.name.endsWith(`_${name}`));
    return arriving.schema.fields.some(({ id }) => id === field.from) || !suits ? field : { ...field, from: suits.id };
  });
  return [...table, set, { kind: 'set step', step: join.id, property: 'fields', from: join.fields, to: fields }];
}

/** A second one of a step behind it, with ids of its own; it takes the step's rows where it takes any, and its place where that was used. */
export function duplicateStepEdit(definition: Definition, mint: Mint, stepId: string): (Edit & { kind: 'add step' }) | undefined {
  const step = definition.steps.find((each) => each.id === stepId);
  if (!step) return undefined;
  const kind = kindOf(step);
  const own = new Set([step.id, ...kind.mints(step)]);
  const fresh = new Map<string, string>();
  const idOf = (id: string) => {
    if (!own.has(id) && !itemIds(step).has(id)) return id;
    const known = fresh.get(id) ?? mint();
    fresh.set(id, known);
    return known;
  };
  const copy = kind.withIds(step, idOf);
  const [first] = step.inputs;
  if (typeof first !== 'string' || readsSource(step)) {
    const at = definition.steps.findIndex((each) => each.id === stepId) + 1;
    return { kind: 'add step', step: copy, at: placeAt(definition.steps, at), heirs: [] };
  }
  return addStepAfter(definition, stepId, { ...copy, inputs: [stepId, ...step.inputs.slice(1)] });
}

function itemIds(step: Step): ReadonlySet<string> {
  return new Set(Object.keys(kindOf(step).lists).flatMap((list) => itemsOf(step, list).map(({ id }) => id)));
}

/**
 * Exchanges a step with the one before it on its lane: it takes that one's rows from where that came, and whatever took
 * its own takes that one's. Undefined where nothing is before it, or something else takes rows between the two.
 */
export function moveUpEdits(definition: Definition, stepId: string): readonly Edit[] | undefined {
  const step = definition.steps.find((each) => each.id === stepId);
  const [above] = step?.inputs ?? [];
  const before = definition.steps.find((each) => each.id === above);
  if (!step || !before || readsSource(step) || readsSource(before) || step.inputs.slice(1).includes(before.id)) return undefined;
  if (slotsOf(definition, before.id).length > 1 || definition.result === before.id) return undefined;
  const removal = removeStepEdit(definition, before.id);
  if (!removal) return undefined;
  const without = applyEdit(definition, removal);
  const back = { ...before, inputs: [step.id, ...before.inputs.slice(1)] };
  const put = addStepAfter(without, step.id, back);
  return [removal, put];
}

/**
 * Moves a step along its lane, so many places down or, with a negative number, up. Undefined where something stands in
 * its way: where it would leave its lane, or another step takes rows on the way.
 */
export function moveAlongEdits(definition: Definition, stepId: string, places: number): readonly Edit[] | undefined {
  const edits: Edit[] = [];
  let current = definition;
  for (let place = 0; place < Math.abs(places); place++) {
    const [next, ...others] = current.steps.filter((each) => each.inputs[0] === stepId);
    const moving = places < 0 ? stepId : others.length === 0 ? next?.id : undefined;
    const moved = moving === undefined ? undefined : moveUpEdits(current, moving);
    if (!moved) return undefined;
    edits.push(...moved);
    current = moved.reduce(applyEdit, current);
  }
  return edits;
}

/** Hands another step's rows over. */
export const handOverEdit = ({ result }: Pick<Definition, 'result'>, stepId: string): Edit => ({
  kind: 'set result',
  from: result,
  to: stepId,
});

/** Puts an item into a list of a step, in front of the one that stands at an index now. */
export const addItem = (step: Step, list: string, item: Item, index: number): Edit & { kind: 'add item' } => ({
  kind: 'add item',
  step: step.id,
  list,
  item,
  at: placeAt(itemsOf(step, list), index),
});

export const removeItem = (step: Step, list: string, item: Item): Edit & { kind: 'remove item' } => ({
  kind: 'remove item',
  step: step.id,
  list,
  item,
  at: placeOf(itemsOf(step, list), item.id),
});

export const setItem = <I extends Item>(step: Step, list: string, from: I, to: I): Edit & { kind: 'set item' } => ({
  kind: 'set item',
  step: step.id,
  list,
  from,
  to,
});

/** A kind names those of its properties that are lists of items. */
export const itemsOf = (step: Step, list: string): readonly Item[] => (step as unknown as Record<string, readonly Item[]>)[list] ?? [];

/** Puts a parameter behind all others. */
export const addParameter = ({ parameters }: Pick<Definition, 'parameters'>, parameter: Parameter): Edit => ({
  kind: 'add parameter',
  parameter,
  at: placeAtEnd(parameters),
});

export const removeParameter = ({ parameters }: Pick<Definition, 'parameters'>, parameter: Parameter): Edit => ({
  kind: 'remove parameter',
  parameter,
  at: placeOf(parameters, parameter.id),
});

/** Moves a parameter to an index; undefined beyond the ends. */
export function moveParameter({ parameters }: Pick<Definition, 'parameters'>, id: string, to: number): Edit | undefined {
  if (to < 0 || to >= parameters.length) return undefined;
  const rest = parameters.filter((each) => each.id !== id);
  return { kind: 'move parameter', parameter: id, from: placeOf(parameters, id), to: placeAt(rest, to) };
}

export function blankCondition(mint: Mint): Condition {
  return { id: mint(), kind: 'condition', off: false, field: '', operator: '', operands: [], andNulls: false };
}

/** A new parameter for a condition: type from the field it meets, several or a range from the operator. */
export function parameterFor(mint: Mint, name: string, field: Field, operatorWord: string): Parameter {
  const takes = operatorByWord(operatorWord)?.takes ?? 'one';
  return {
    id: mint(),
    name,
    type: parameterTypeFor(field.type),
    takes: takes === 'none' ? 'one' : takes,
    leftBlank: 'condition is off',
    startsAs: [],
    hint: '',
  };
}
