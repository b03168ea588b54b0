import { z } from 'zod';
import { idShape as id } from '../ids';
import type { FieldId } from '../fields';
import type { LayoutProperty } from '../grouping';
import { LAYOUT_PROPERTIES } from '../grouping';
import type { Parameter } from '../parameters';
import { PARAMETER_NAME, parameterShape } from '../parameters';
import type { SheetProperty } from '../sheet';
import { SHEET_PROPERTIES } from '../sheet';
import type { Item, Step } from '../steps';
import { KINDS, stepShape } from '../steps';
import type { Calendar } from '../values';
import type { BriefItem } from './brief';
import { briefItemShape } from './brief';
import { calendarShape } from './definition';

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

export const DATASET_PROPERTIES = ['description', 'tags', 'order', 'watched', 'language'] as const;
export type DatasetProperty = (typeof DATASET_PROPERTIES)[number];

/**
 * A place in a list, told by what stands on both sides of it; null is the list's end. Two who put something into one
 * place find each other there, where numbers would let one of them end up elsewhere.
 */
export interface Between {
  readonly after: string | null;
  readonly before: string | null;
}

/** A slot that takes a step's rows, and what comes in there without that step. */
export interface Heir {
  readonly step: string;
  readonly slot: number;
  readonly instead: string | null;
}

/** A step at a place in the order, the slots that take its rows, and what is handed over. */
export interface Placed {
  readonly step: Step;
  readonly at: Between;
  readonly heirs: readonly Heir[];
  /** The step is handed over; what is handed over without it. */
  readonly handedOver?: { readonly instead: string | null };
}

/** A part of the definition before and after fields were exchanged in it. */
export type Rebound =
  | { readonly part: 'step'; readonly id: string; readonly from: Step; readonly to: Step }
  | { readonly part: 'parameters' | 'sheet' | 'order' | 'proof'; readonly from: unknown; readonly to: unknown };

/**
 * The smallest changes of a definition. Each names its targets by id and carries what it expects to
 * find, so it can be inverted exactly and refuses to overwrite what somebody else changed meanwhile.
 */
export type Edit =
  | { readonly kind: 'set title'; readonly from: string; readonly to: string }
  | ({ readonly kind: 'add step' } & Placed)
  | ({ readonly kind: 'remove step' } & Placed)
  /** Its place in the order, which stays one in which each step stands behind its inputs. */
  | { readonly kind: 'move step'; readonly step: string; readonly from: Between; readonly to: Between }
  /** What comes into a slot; null empties it. */
  | { readonly kind: 'set input'; readonly step: string; readonly slot: number; readonly from: string | null; readonly to: string | null }
  /** Which step is handed over. */
  | { readonly kind: 'set result'; readonly from: string | null; readonly to: string | null }
  /**
   * Exchanges fields where they are used, after an input was replaced: each of `map` by another one; those in `lost`
   * found no partner and are missing now. `parts` are what it changes, whole.
   */
  | {
      readonly kind: 'rebind';
      readonly map: readonly { readonly from: FieldId; readonly to: FieldId }[];
      readonly lost: readonly FieldId[];
      readonly parts: readonly Rebound[];
    }
  | { readonly kind: 'set step'; readonly step: string; readonly property: string; readonly from: unknown; readonly to: unknown }
  | { readonly kind: 'add item'; readonly step: string; readonly list: string; readonly item: Item; readonly at: Between }
  | { readonly kind: 'remove item'; readonly step: string; readonly list: string; readonly item: Item; readonly at: Between }
  | { readonly kind: 'set item'; readonly step: string; readonly list: string; readonly from: Item; readonly to: Item }
  /** Renames a field the step mints and rewrites every mention of it in expressions. */
  | { readonly kind: 'rename field'; readonly step: string; readonly field: string; readonly from: string; readonly to: string }
  | { readonly kind: 'set calendar'; readonly from: Calendar; readonly to: Calendar }
  | { readonly kind: 'add parameter'; readonly parameter: Parameter; readonly at: Between }
  | { readonly kind: 'remove parameter'; readonly parameter: Parameter; readonly at: Between }
  | {
      readonly kind: 'set parameter';
      readonly parameter: string;
      readonly property: ParameterProperty;
      readonly from: unknown;
      readonly to: unknown;
    }
  /** Its place in the order in which parameters are asked for. */
  | { readonly kind: 'move parameter'; readonly parameter: string; readonly from: Between; readonly to: Between }
  /** Also rewrites every mention in expressions. */
  | { readonly kind: 'rename parameter'; readonly parameter: string; readonly from: string; readonly to: string }
  | { readonly kind: 'set dataset'; readonly property: DatasetProperty; readonly from: unknown; readonly to: unknown }
  /** One thing the field sheet says of a field; undefined where it says nothing. */
  | { readonly kind: 'set sheet'; readonly field: string; readonly property: SheetProperty; readonly from?: unknown; readonly to?: unknown }
  | { readonly kind: 'set request'; readonly from: string; readonly to: string }
  | { readonly kind: 'add wish'; readonly item: BriefItem; readonly at: Between }
  | { readonly kind: 'remove wish'; readonly item: BriefItem; readonly at: Between }
  | { readonly kind: 'set wish'; readonly from: BriefItem; readonly to: BriefItem }
  | { readonly kind: 'set proof'; readonly property: LayoutProperty; readonly from?: unknown; readonly to?: unknown };

const word = id;
const slot = z.int().min(0).max(49);
const anything = z.unknown().optional();
const stepId = id.nullable();
const between = z.strictObject({ after: stepId, before: stepId });
const placed = {
  step: stepShape,
  at: between,
  heirs: z.array(z.strictObject({ step: id, slot, instead: stepId })).max(1_000),
  handedOver: z.strictObject({ instead: stepId }).optional(),
};

/** An item of any list of any kind: whether it is one of its own list's shows when it is applied. */
const itemShape = z.lazy(() =>
  z.union([...new Set(Object.values(KINDS).flatMap(({ lists }) => Object.values(lists).map((each) => each.shape)))]),
);
const itemPlace = { step: id, list: word, item: itemShape, at: between };

const rebound = z.union([
  z.strictObject({ part: z.literal('step'), id, from: stepShape, to: stepShape }),
  z.strictObject({ part: z.enum(['parameters', 'sheet', 'order', 'proof']), from: anything, to: anything }),
]);

/** Checks the form of received edits; whether they fit the definition shows when they are applied. */
export const editShape = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('set title'), from: z.string(), to: z.string().max(200) }),
  z.strictObject({ kind: z.literal('add step'), ...placed }),
  z.strictObject({ kind: z.literal('remove step'), ...placed }),
  z.strictObject({ kind: z.literal('move step'), step: id, from: between, to: between }),
  z.strictObject({ kind: z.literal('set input'), step: id, slot, from: stepId, to: stepId }),
  z.strictObject({ kind: z.literal('set result'), from: stepId, to: stepId }),
  z.strictObject({
    kind: z.literal('rebind'),
    map: z.array(z.strictObject({ from: id, to: id })).max(5_000),
    lost: z.array(id).max(5_000),
    parts: z.array(rebound).max(300),
  }),
  z.strictObject({ kind: z.literal('set step'), step: id, property: word, from: anything, to: anything }),
  z.strictObject({ kind: z.literal('add item'), ...itemPlace }),
  z.strictObject({ kind: z.literal('remove item'), ...itemPlace }),
  z.strictObject({ kind: z.literal('set item'), step: id, list: word, from: itemShape, to: itemShape }),
  z.strictObject({ kind: z.literal('rename field'), step: id, field: id, from: z.string(), to: z.string().max(200) }),
  z.strictObject({ kind: z.literal('set calendar'), from: calendarShape, to: calendarShape }),
  z.strictObject({ kind: z.literal('add parameter'), parameter: parameterShape, at: between }),
  z.strictObject({ kind: z.literal('remove parameter'), parameter: parameterShape, at: between }),
  z.strictObject({ kind: z.literal('set parameter'), parameter: id, property: z.enum(PARAMETER_PROPERTIES), from: anything, to: anything }),
  z.strictObject({ kind: z.literal('move parameter'), parameter: id, from: between, to: between }),
  z.strictObject({ kind: z.literal('rename parameter'), parameter: id, from: z.string(), to: z.string().regex(PARAMETER_NAME) }),
  z.strictObject({ kind: z.literal('set dataset'), property: z.enum(DATASET_PROPERTIES), from: anything, to: anything }),
  z.strictObject({ kind: z.literal('set sheet'), field: id, property: z.enum(SHEET_PROPERTIES), from: anything, to: anything }),
  z.strictObject({ kind: z.literal('set request'), from: z.string(), to: z.string().max(10_000) }),
  z.strictObject({ kind: z.literal('add wish'), item: briefItemShape, at: between }),
  z.strictObject({ kind: z.literal('remove wish'), item: briefItemShape, at: between }),
  z.strictObject({ kind: z.literal('set wish'), from: briefItemShape, to: briefItemShape }),
  z.strictObject({ kind: z.literal('set proof'), property: z.enum(LAYOUT_PROPERTIES), from: anything, to: anything }),
]) as unknown as z.ZodType<Edit>;

/** The edits that undo `edits`, in the order to apply them. */
export function invertEdits(edits: readonly Edit[]): readonly Edit[] {
  return [...edits].reverse().map(invertEdit);
}

/** Applied after the edit, it gives the definition before it, exactly. */
export function invertEdit(edit: Edit): Edit {
  switch (edit.kind) {
    case 'add step':
      return { ...edit, kind: 'remove step' };
    case 'remove step':
      return { ...edit, kind: 'add step' };
    case 'rebind':
      return {
        kind: 'rebind',
        map: edit.map.map(({ from, to }) => ({ from: to, to: from })),
        lost: edit.lost,
        parts: edit.parts.map((each) => ({ ...each, from: each.to, to: each.from }) as Rebound),
      };
    case 'add item':
      return { ...edit, kind: 'remove item' };
    case 'remove item':
      return { ...edit, kind: 'add item' };
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
