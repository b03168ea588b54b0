import type { BriefItem } from './brief';
import type { Clause } from '../criteria';
import type { Parameter } from '../parameters';
import { refuse } from '../problem';
import type { SheetEntry } from '../sheet';
import type { CalculatedField, Step } from '../steps';
import { kindOf } from '../steps';
import type { Definition } from './definition';
import { readDefinition } from './definition';
import type { Edit } from './edits';
import { equal } from './equal';

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
    case 'set step':
      return changeStep(definition, edit, edit.step, (step) => {
        if (!(edit.property in step)) refuse('edit-unsuited', `A ${step.kind} step has no ${edit.property}.`, { step: step.id });
        expect(edit, step[edit.property as keyof Step], edit.from);
        return { ...step, [edit.property]: edit.to } as Step;
      });
    case 'add clause':
      return changeClauses(definition, edit, (clauses) => clauses.toSpliced(edit.index, 0, edit.clause));
    case 'remove clause':
      return changeClauses(definition, edit, (clauses) => clauses.filter((each) => each !== same(edit, clauses, edit.clause)));
    case 'set clause':
      return changeClauses(definition, edit, (clauses) => {
        const old = same(edit, clauses, edit.from);
        return clauses.map((each) => (each === old ? edit.to : each));
      });
    case 'add calculated':
      return changeFields(definition, edit, (fields) => fields.toSpliced(edit.index, 0, edit.field));
    case 'remove calculated':
      return changeFields(definition, edit, (fields) => fields.filter((each) => each !== same(edit, fields, edit.field)));
    case 'set calculated':
      return changeFields(definition, edit, (fields) => {
        const old = same(edit, fields, edit.from);
        return fields.map((each) => (each === old ? edit.to : each));
      });
    case 'rename field':
      return renameField(definition, edit);
    case 'set calendar':
      expect(edit, definition.calendar, edit.from);
      return { ...definition, calendar: edit.to };
    case 'add parameter':
      return { ...definition, parameters: definition.parameters.toSpliced(edit.index, 0, edit.parameter) };
    case 'remove parameter':
      expect(edit, parameterOf(definition, edit, edit.parameter.id), edit.parameter);
      return { ...definition, parameters: definition.parameters.filter((each) => each.id !== edit.parameter.id) };
    case 'set parameter':
      return changeParameter(definition, edit, edit.parameter, (parameter) => {
        expect(edit, parameter[edit.property], edit.from);
        return { ...parameter, [edit.property]: edit.to };
      });
    case 'move parameter': {
      const { parameters } = definition;
      expect(edit, parameters[edit.from]?.id, edit.parameter);
      const moved = parameterOf(definition, edit, edit.parameter);
      return { ...definition, parameters: parameters.toSpliced(edit.from, 1).toSpliced(edit.to, 0, moved) };
    }
    case 'rename parameter':
      return renameParameter(definition, edit);
    case 'set dataset':
      expect(edit, definition[edit.property], edit.from);
      return { ...definition, [edit.property]: edit.to };
    case 'set sheet':
      return setSheet(definition, edit);
    case 'set request':
      expect(edit, definition.brief.request, edit.from);
      return { ...definition, brief: { ...definition.brief, request: edit.to } };
    case 'add wish':
      return changeWishes(definition, (items) => items.toSpliced(edit.index, 0, edit.item));
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
  const at = edit.after === null ? 0 : indexOfStep(definition, edit, edit.after) + 1;
  if (definition.steps.some((each) => each.id === edit.step.id)) conflict(edit, 'no step of this id', edit.step.id);
  for (const heir of edit.heirs) expect(edit, definition.steps.find((each) => each.id === heir)?.inputs.includes(edit.after ?? ''), true);
  const steps = definition.steps.map((step) => (edit.heirs.includes(step.id) ? withInput(step, edit.after, edit.step.id) : step));
  return { ...definition, steps: steps.toSpliced(at, 0, edit.step) };
}

function removeStep(definition: Definition, edit: Edit & { kind: 'remove step' }): Definition {
  const at = indexOfStep(definition, edit, edit.step.id);
  expect(edit, definition.steps[at], edit.step);
  const heirs = definition.steps.filter((step) => step.inputs.includes(edit.step.id)).map((step) => step.id);
  expect(edit, heirs.toSorted(), [...edit.heirs].sort());
  const { after } = edit;
  const steps = definition.steps
    .filter((each) => each.id !== edit.step.id)
    .map((step) => (edit.heirs.includes(step.id) ? withInput(step, edit.step.id, after) : step));
  return { ...definition, steps };
}

const withInput = (step: Step, from: string | null, to: string | null): Step => ({
  ...step,
  inputs: step.inputs.flatMap((each) => (each === from ? (to ?? []) : each)),
});

function changeStep(definition: Definition, edit: Edit, stepId: string, change: (step: Step) => Step): Definition {
  const at = indexOfStep(definition, edit, stepId);
  return { ...definition, steps: definition.steps.map((step, index) => (index === at ? change(step) : step)) };
}

function changeClauses(
  definition: Definition,
  edit: Edit & { step: string },
  change: (clauses: readonly Clause[]) => readonly Clause[],
): Definition {
  return changeStep(definition, edit, edit.step, (step) => {
    if (step.kind !== 'criteria') refuse('edit-unsuited', `A ${step.kind} step has no clauses.`, { step: step.id });
    return { ...step, clauses: change(step.clauses) };
  });
}

function changeFields(
  definition: Definition,
  edit: Edit & { step: string },
  change: (fields: readonly CalculatedField[]) => readonly CalculatedField[],
): Definition {
  return changeStep(definition, edit, edit.step, (step) => {
    if (step.kind !== 'calculate') refuse('edit-unsuited', `A ${step.kind} step has no calculated fields.`, { step: step.id });
    return { ...step, fields: change(step.fields) };
  });
}

/** The item of the same id, which must still be as the edit saw it. */
function same<T extends { readonly id: string }>(edit: Edit, items: readonly T[], wanted: T): T {
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
  const renamed = changeFields(definition, edit, (fields) => {
    const old = fields.find((each) => each.id === edit.field) ?? conflict(edit, edit.field, undefined);
    expect(edit, old.name, edit.from);
    return fields.map((each) => (each === old ? { ...each, name: edit.to } : each));
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
