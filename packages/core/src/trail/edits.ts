import { z } from 'zod';
import type { Clause } from '../criteria';
import { clauseShape } from '../criteria';
import type { Parameter } from '../parameters';
import { PARAMETER_NAME, parameterShape } from '../parameters';
import { refuse } from '../problem';
import type { CalculatedField, Step } from '../steps';
import { calculatedFieldShape, kindOf, stepShape } from '../steps';
import type { Calendar } from '../values';
import type { Definition } from './definition';
import { calendarShape, readDefinition } from './definition';

/** Properties of a step that one edit sets as a whole. */
export const STEP_PROPERTIES = ['name', 'off', 'taken', 'fields', 'head', 'clauses', 'source', 'schema', 'table'] as const;
export type StepProperty = (typeof STEP_PROPERTIES)[number];

export const PARAMETER_PROPERTIES = [
  'type',
  'takes',
  'leftBlank',
  'startsAs',
  'startsBy',
  'hint',
  'choices',
  'limits',
  'isPrivate',
] as const;
export type ParameterProperty = (typeof PARAMETER_PROPERTIES)[number];

/**
 * The smallest changes of a definition. Each names its targets by id and carries what it expects to
 * find, so it can be inverted exactly and refuses to overwrite what somebody else changed meanwhile.
 */
export type Edit =
  | { readonly kind: 'set title'; readonly from: string; readonly to: string }
  /** Puts a step behind `after` (at the beginning when null); steps in `heirs` take the new step as input instead of `after`. */
  | { readonly kind: 'add step'; readonly step: Step; readonly after: string | null; readonly heirs: readonly string[] }
  /** The inverse: `heirs` take `after` again. */
  | { readonly kind: 'remove step'; readonly step: Step; readonly after: string | null; readonly heirs: readonly string[] }
  | { readonly kind: 'set step'; readonly step: string; readonly property: StepProperty; readonly from: unknown; readonly to: unknown }
  | { readonly kind: 'add clause'; readonly step: string; readonly clause: Clause; readonly index: number }
  | { readonly kind: 'remove clause'; readonly step: string; readonly clause: Clause; readonly index: number }
  | { readonly kind: 'set clause'; readonly step: string; readonly from: Clause; readonly to: Clause }
  | { readonly kind: 'add calculated'; readonly step: string; readonly field: CalculatedField; readonly index: number }
  | { readonly kind: 'remove calculated'; readonly step: string; readonly field: CalculatedField; readonly index: number }
  | { readonly kind: 'set calculated'; readonly step: string; readonly from: CalculatedField; readonly to: CalculatedField }
  /** Renames a calculated field and rewrites every mention of it in expressions. */
  | { readonly kind: 'rename field'; readonly step: string; readonly field: string; readonly from: string; readonly to: string }
  | { readonly kind: 'set calendar'; readonly from: Calendar; readonly to: Calendar }
  | { readonly kind: 'add parameter'; readonly parameter: Parameter; readonly index: number }
  | { readonly kind: 'remove parameter'; readonly parameter: Parameter; readonly index: number }
  | {
      readonly kind: 'set parameter';
      readonly parameter: string;
      readonly property: ParameterProperty;
      readonly from: unknown;
      readonly to: unknown;
    }
  /** Its place in the order in which parameters are asked for. */
  | { readonly kind: 'move parameter'; readonly parameter: string; readonly from: number; readonly to: number }
  /** Also rewrites every mention in expressions. */
  | { readonly kind: 'rename parameter'; readonly parameter: string; readonly from: string; readonly to: string };

const id = z.string().min(1).max(64);
const position = z.int().min(0).max(1_000);
const anything = z.unknown().optional();
const stepPlace = { step: stepShape, after: id.nullable(), heirs: z.array(id).max(200) };

/** Checks the form of received edits; whether they fit the definition shows when they are applied. */
export const editShape = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('set title'), from: z.string(), to: z.string().max(200) }),
  z.strictObject({ kind: z.literal('add step'), ...stepPlace }),
  z.strictObject({ kind: z.literal('remove step'), ...stepPlace }),
  z.strictObject({ kind: z.literal('set step'), step: id, property: z.enum(STEP_PROPERTIES), from: anything, to: anything }),
  z.strictObject({ kind: z.literal('add clause'), step: id, clause: clauseShape, index: position }),
  z.strictObject({ kind: z.literal('remove clause'), step: id, clause: clauseShape, index: position }),
  z.strictObject({ kind: z.literal('set clause'), step: id, from: clauseShape, to: clauseShape }),
  z.strictObject({ kind: z.literal('add calculated'), step: id, field: calculatedFieldShape, index: position }),
  z.strictObject({ kind: z.literal('remove calculated'), step: id, field: calculatedFieldShape, index: position }),
  z.strictObject({ kind: z.literal('set calculated'), step: id, from: calculatedFieldShape, to: calculatedFieldShape }),
  z.strictObject({ kind: z.literal('rename field'), step: id, field: id, from: z.string(), to: z.string().max(200) }),
  z.strictObject({ kind: z.literal('set calendar'), from: calendarShape, to: calendarShape }),
  z.strictObject({ kind: z.literal('add parameter'), parameter: parameterShape, index: position }),
  z.strictObject({ kind: z.literal('remove parameter'), parameter: parameterShape, index: position }),
  z.strictObject({ kind: z.literal('set parameter'), parameter: id, property: z.enum(PARAMETER_PROPERTIES), from: anything, to: anything }),
  z.strictObject({ kind: z.literal('move parameter'), parameter: id, from: position, to: position }),
  z.strictObject({ kind: z.literal('rename parameter'), parameter: id, from: z.string(), to: z.string().regex(PARAMETER_NAME) }),
]) as unknown as z.ZodType<Edit>;

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
  }
}

/** The edits that undo `edits`, in the order to apply them. */
export function invertEdits(edits: readonly Edit[]): readonly Edit[] {
  return [...edits].reverse().map(invertEdit);
}

export function invertEdit(edit: Edit): Edit {
  switch (edit.kind) {
    case 'add step':
      return { ...edit, kind: 'remove step' };
    case 'remove step':
      return { ...edit, kind: 'add step' };
    case 'add clause':
      return { ...edit, kind: 'remove clause' };
    case 'remove clause':
      return { ...edit, kind: 'add clause' };
    case 'add calculated':
      return { ...edit, kind: 'remove calculated' };
    case 'remove calculated':
      return { ...edit, kind: 'add calculated' };
    case 'add parameter':
      return { ...edit, kind: 'remove parameter' };
    case 'remove parameter':
      return { ...edit, kind: 'add parameter' };
    default:
      return { ...edit, from: edit.to, to: edit.from } as Edit;
  }
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

/** Equality of JSON documents; property order does not matter. */
export function equal(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const keys = Object.keys(a).filter((key) => (a as Record<string, unknown>)[key] !== undefined);
  const others = Object.keys(b).filter((key) => (b as Record<string, unknown>)[key] !== undefined);
  return (
    keys.length === others.length && keys.every((key) => equal((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key]))
  );
}
