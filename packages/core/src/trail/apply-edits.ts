import type { BriefItem } from './brief';
import type { Parameter } from '../parameters';
import { refuse } from '../problem';
import type { SheetEntry } from '../sheet';
import type { Item, Step } from '../steps';
import { kindOf } from '../steps';
import type { Definition } from './definition';
import { readDefinition } from './definition';
import type { Between, Edit, Rebound } from './edits';
import { equal } from './equal';
import { inCurrentNames } from './names';
import { indexOfPlace } from './places';

/**
 * The definition after the edits, all or none. Throws a ProblemError with code `edit-conflict` when a
 * target is not as expected, or with the definition's own problems when the result would be broken.
 */
export function applyEdits(definition: Definition, edits: readonly Edit[]): Definition {
  const applied = edits.reduce(applyEdit, definition);
  const read = readDefinition(applied);
  if ('problems' in read)
    refuse(
      'edit-breaks',
      `This change would break the dataset: ${read.problems[0]?.message ?? ''}`,
      read.problems[0]?.place,
      read.problems[0]?.expected,
    );
  return read.definition;
}

export function applyEdit(definition: Definition, edit: Edit): Definition {
  switch (edit.kind) {
    case 'set title':
      expect(edit, definition.title, edit.from);
      return { ...definition, title: edit.to };
    case 'add step':
      return addStep(definition, edit);
    case 'remove step':
      return removeStep(definition, edit);
    case 'move step':
      return { ...definition, steps: moved(edit, definition.steps, edit.step) };
    case 'set input':
      return changeStep(definition, edit, edit.step, (step) => {
        expect(edit, step.inputs[edit.slot] ?? null, edit.from);
        return withInput(step, edit.slot, edit.to);
      });
    case 'set result':
      expect(edit, definition.result, edit.from);
      return { ...definition, result: edit.to };
    case 'rebind':
      return edit.parts.reduce((done, part) => rebound(done, edit, part), definition);
    case 'set step':
      return changeStep(definition, edit, edit.step, (step) => {
        if (!['name', 'off', ...Object.keys(kindOf(step).properties)].includes(edit.property))
          refuse('edit-unsuited', `A ${step.kind} step has no ${edit.property}.`, { step: step.id });
        expect(edit, step[edit.property as keyof Step], edit.from);
        return without({ ...step, [edit.property]: edit.to });
      });
    case 'add item':
      return changeItems(definition, edit, (items) => put(edit, items, edit.item, edit.at));
    case 'remove item':
      return changeItems(definition, edit, (items) => items.filter((each) => each !== same(edit, items, edit.item)));
    case 'set item':
      return changeItems(definition, edit, (items) => {
        const old = same(edit, items, edit.from);
        return items.map((each) => (each === old ? edit.to : each));
      });
    case 'rename field':
      return renameField(definition, edit);
    case 'set calendar':
      expect(edit, definition.calendar, edit.from);
      return { ...definition, calendar: edit.to };
    case 'add parameter':
      return { ...definition, parameters: put(edit, definition.parameters, edit.parameter, edit.at) };
    case 'remove parameter':
      expect(edit, parameterOf(definition, edit, edit.parameter.id), edit.parameter);
      return { ...definition, parameters: definition.parameters.filter((each) => each.id !== edit.parameter.id) };
    case 'set parameter':
      return changeParameter(definition, edit, edit.parameter, (parameter) => {
        expect(edit, parameter[edit.property], edit.from);
        return { ...parameter, [edit.property]: edit.to };
      });
    case 'move parameter':
      return { ...definition, parameters: moved(edit, definition.parameters, edit.parameter) };
    case 'rename parameter':
      return renameParameter(definition, edit);
    case 'set dataset':
      expect(edit, definition[edit.property], edit.from);
      return without({ ...definition, [edit.property]: edit.to });
    case 'set sheet':
      return setSheet(definition, edit);
    case 'set request':
      expect(edit, definition.brief.request, edit.from);
      return { ...definition, brief: { ...definition.brief, request: edit.to } };
    case 'add wish':
      return changeWishes(definition, (items) => put(edit, items, edit.item, edit.at));
    case 'remove wish':
      return changeWishes(definition, (items) => items.filter((each) => each !== same(edit, items, edit.item)));
    case 'set wish':
      return changeWishes(definition, (items) => {
        const old = same(edit, items, edit.from);
        return items.map((each) => (each === old ? edit.to : each));
      });
    case 'set proof':
      expect(edit, definition.proof[edit.property], edit.from);
      return { ...definition, proof: without({ ...definition.proof, [edit.property]: edit.to }) };
  }
}

/** The list with an item at a place where nobody put anything meanwhile. */
function put<T extends Item>(edit: Edit, items: readonly T[], item: T, at: Between): readonly T[] {
  if (items.some((each) => each.id === item.id)) conflict(edit, 'no other of this id', item.id);
  const index = indexOfPlace(items, at);
  return index === undefined ? conflict(edit, at, null) : items.toSpliced(index, 0, item);
}

function moved<T extends Item>(edit: Edit & { kind: 'move step' | 'move parameter' }, items: readonly T[], id: string): readonly T[] {
  const item = items.find((each) => each.id === id);
  if (!item) return conflict(edit, id, undefined);
  const rest = items.filter((each) => each !== item);
  const from = indexOfPlace(rest, edit.from);
  if (from === undefined || items[from] !== item) conflict(edit, edit.from, null);
  return put(edit, rest, item, edit.to);
}

/** An entry that says nothing any more is no entry; so an edit and its inverse leave no trace. */
function setSheet(definition: Definition, edit: Edit & { kind: 'set sheet' }): Definition {
  const { sheet } = definition;
  const entry: SheetEntry = sheet.find((each) => each.field === edit.field) ?? { field: edit.field };
  expect(edit, entry[edit.property], edit.from);
  const said = without({ ...entry, [edit.property]: edit.to });
  const at = sheet.findIndex((each) => each.field === edit.field);
  if (Object.keys(said).length === 1) return { ...definition, sheet: sheet.filter((each) => each.field !== edit.field) };
  return { ...definition, sheet: at < 0 ? [...sheet, said].toSorted(byField) : sheet.with(at, said) };
}

/** Entries stand by their field's id, so that where one stands does not depend on when it was made. */
const byField = (a: SheetEntry, b: SheetEntry) => (a.field < b.field ? -1 : 1);

/** The object without what is undefined; JSON does not keep it either. */
function without<T extends object>(given: T): T {
  return Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined)) as T;
}

function changeWishes(definition: Definition, change: (items: readonly BriefItem[]) => readonly BriefItem[]): Definition {
  return { ...definition, brief: { ...definition.brief, items: change(definition.brief.items) } };
}

function addStep(definition: Definition, edit: Edit & { kind: 'add step' }): Definition {
  const { id } = edit.step;
  const steps = put(edit, definition.steps, inCurrentNames(edit.step, definition), edit.at);
  const { handedOver } = edit;
  if (handedOver) expect(edit, definition.result, handedOver.instead);
  return rewired({ ...definition, steps, result: handedOver ? id : definition.result }, edit, (heir) => [heir.instead, id]);
}

function removeStep(definition: Definition, edit: Edit & { kind: 'remove step' }): Definition {
  const { id } = edit.step;
  const at = indexOfStep(definition, edit, id);
  expect(edit, definition.steps[at], edit.step);
  const { handedOver } = edit;
  expect(edit, definition.result === id, handedOver !== undefined);
  const rest = rewired(definition, edit, (heir) => [id, heir.instead]);
  if (rest.steps.some((each) => each.inputs.includes(id))) conflict(edit, edit.heirs, null);
  return { ...rest, steps: rest.steps.toSpliced(at, 1), result: handedOver ? handedOver.instead : rest.result };
}

/** The definition with each heir's slot changed, which must be as expected before. */
function rewired(
  definition: Definition,
  edit: Edit & { kind: 'add step' | 'remove step' },
  change: (heir: (typeof edit.heirs)[number]) => readonly [from: string | null, to: string | null],
): Definition {
  return edit.heirs.reduce((done, heir) => {
    const [from, to] = change(heir);
    return changeStep(done, edit, heir.step, (step) => {
      expect(edit, step.inputs[heir.slot] ?? null, from);
      return withInput(step, heir.slot, to);
    });
  }, definition);
}

/** The step with something else in a slot; empty slots at the end are none. */
function withInput(step: Step, slot: number, to: string | null): Step {
  const inputs = Array.from({ length: Math.max(step.inputs.length, slot + 1) }, (_each, at) =>
    at === slot ? to : (step.inputs[at] ?? null),
  );
  while (inputs.at(-1) === null) inputs.pop();
  return { ...step, inputs };
}

function rebound(definition: Definition, edit: Edit & { kind: 'rebind' }, part: Rebound): Definition {
  if (part.part === 'step')
    return changeStep(definition, edit, part.id, (step) => {
      expect(edit, step, part.from);
      return part.to;
    });
  expect(edit, definition[part.part], part.from);
  return { ...definition, [part.part]: part.to };
}

function changeStep(definition: Definition, edit: Edit, stepId: string, change: (step: Step) => Step): Definition {
  const at = indexOfStep(definition, edit, stepId);
  const changed = definition.steps.map((step, index) => (index === at ? change(step) : step));
  const now = { ...definition, steps: changed };
  // What it calls its own fields now is what they are called.
  return { ...now, steps: changed.map((step, index) => (index === at ? inCurrentNames(step, now) : step)) };
}

function changeItems(
  definition: Definition,
  edit: Edit & { step: string; list: string },
  change: (items: readonly Item[]) => readonly Item[],
): Definition {
  return changeStep(definition, edit, edit.step, (step) => {
    if (!(edit.list in kindOf(step).lists)) refuse('edit-unsuited', `A ${step.kind} step has no ${edit.list}.`, { step: step.id });
    // A kind names those of its properties that are lists of items.
    const items = step[edit.list as keyof Step] as unknown as readonly Item[];
    return { ...step, [edit.list]: change(items) };
  });
}

/** The item of the same id, which must still be as the edit saw it. */
function same<T extends Item>(edit: Edit, items: readonly T[], wanted: T): T {
  const item = items.find((each) => each.id === wanted.id);
  expect(edit, item, wanted);
  return item ?? conflict(edit, wanted, item);
}

function parameterOf(definition: Definition, edit: Edit, parameterId: string): Parameter {
  return definition.parameters.find((each) => each.id === parameterId) ?? conflict(edit, parameterId, undefined);
}

function changeParameter(definition: Definition, edit: Edit, parameterId: string, change: (parameter: Parameter) => Parameter): Definition {
  const old = parameterOf(definition, edit, parameterId);
  return { ...definition, parameters: definition.parameters.map((each) => (each === old ? change(each) : each)) };
}

function renameParameter(definition: Definition, edit: Edit & { kind: 'rename parameter' }): Definition {
  const renamed = changeParameter(definition, edit, edit.parameter, (parameter) => {
    expect(edit, parameter.name, edit.from);
    return { ...parameter, name: edit.to };
  });
  return { ...renamed, steps: renamed.steps.map((step) => kindOf(step).renamed(step, 'parameter', edit.parameter, edit.to)) };
}

function renameField(definition: Definition, edit: Edit & { kind: 'rename field' }): Definition {
  const renamed = changeStep(definition, edit, edit.step, (step) => {
    const kind = kindOf(step);
    const name = kind.fieldName(step, edit.field) ?? conflict(edit, edit.field, undefined);
    expect(edit, name, edit.from);
    return kind.withFieldNamed(step, edit.field, edit.to);
  });
  return { ...renamed, steps: renamed.steps.map((step) => kindOf(step).renamed(step, 'field', edit.field, edit.to)) };
}

function indexOfStep(definition: Definition, edit: Edit, stepId: string): number {
  const at = definition.steps.findIndex((each) => each.id === stepId);
  return at < 0 ? conflict(edit, stepId, undefined) : at;
}

function expect(edit: Edit, actual: unknown, expected: unknown): void {
  if (!equal(actual, expected)) conflict(edit, expected, actual);
}

function conflict(edit: Edit, expected: unknown, actual: unknown): never {
  const gone = actual === undefined;
  const message = gone ? 'What this change is about was removed meanwhile.' : 'Somebody changed the same place meanwhile.';
  const place =
    'step' in edit
      ? { step: typeof edit.step === 'string' ? edit.step : edit.step.id }
      : 'parameter' in edit
        ? { parameter: typeof edit.parameter === 'string' ? edit.parameter : edit.parameter.id }
        : {};
  return refuse('edit-conflict', message, place, gone ? undefined : JSON.stringify(expected)?.slice(0, 500));
}
