import { z } from 'zod';
import type { Clause } from '../criteria';
import { clauseShape } from '../criteria';
import type { LayoutProperty } from '../grouping';
import { LAYOUT_PROPERTIES } from '../grouping';
import type { Parameter } from '../parameters';
import { PARAMETER_NAME, parameterShape } from '../parameters';
import type { SheetProperty } from '../sheet';
import { SHEET_PROPERTIES } from '../sheet';
import type { CalculatedField, Step } from '../steps';
import { calculatedFieldShape, stepShape } from '../steps';
import type { Calendar } from '../values';
import type { BriefItem } from './brief';
import { briefItemShape } from './brief';
import { calendarShape } from './definition';

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

export const DATASET_PROPERTIES = ['description', 'tags', 'order'] as const;
export type DatasetProperty = (typeof DATASET_PROPERTIES)[number];

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
  | { readonly kind: 'rename parameter'; readonly parameter: string; readonly from: string; readonly to: string }
  | { readonly kind: 'set dataset'; readonly property: DatasetProperty; readonly from: unknown; readonly to: unknown }
  /** One thing the field sheet says of a field; undefined where it says nothing. */
  | { readonly kind: 'set sheet'; readonly field: string; readonly property: SheetProperty; readonly from?: unknown; readonly to?: unknown }
  | { readonly kind: 'set request'; readonly from: string; readonly to: string }
  | { readonly kind: 'add wish'; readonly item: BriefItem; readonly index: number }
  | { readonly kind: 'remove wish'; readonly item: BriefItem; readonly index: number }
  | { readonly kind: 'set wish'; readonly from: BriefItem; readonly to: BriefItem }
  | { readonly kind: 'set proof'; readonly property: LayoutProperty; readonly from?: unknown; readonly to?: unknown };

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
  z.strictObject({ kind: z.literal('set dataset'), property: z.enum(DATASET_PROPERTIES), from: anything, to: anything }),
  z.strictObject({ kind: z.literal('set sheet'), field: id, property: z.enum(SHEET_PROPERTIES), from: anything, to: anything }),
  z.strictObject({ kind: z.literal('set request'), from: z.string(), to: z.string().max(10_000) }),
  z.strictObject({ kind: z.literal('add wish'), item: briefItemShape, index: position }),
  z.strictObject({ kind: z.literal('remove wish'), item: briefItemShape, index: position }),
  z.strictObject({ kind: z.literal('set wish'), from: briefItemShape, to: briefItemShape }),
  z.strictObject({ kind: z.literal('set proof'), property: z.enum(LAYOUT_PROPERTIES), from: anything, to: anything }),
]) as unknown as z.ZodType<Edit>;

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
    case 'add wish':
      return { ...edit, kind: 'remove wish' };
    case 'remove wish':
      return { ...edit, kind: 'add wish' };
    default:
      return { ...edit, from: edit.to, to: edit.from } as Edit;
  }
}
