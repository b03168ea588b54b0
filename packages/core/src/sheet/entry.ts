import { z } from 'zod';
import { idShape as id } from '../ids';
import type { FieldId, Role } from '../fields';
import type { AddsUp, Aggregate } from './aggregates';
import { ADDS_UP, AGGREGATES } from './aggregates';
import { LINK_MOST, linkWithIds } from './link';

/** How values of a field are written for people: a Unicode LDML pattern (UTS 35). */
export interface Format {
  readonly pattern: string;
  /** What a `¤` of the pattern stands for, such as EUR. */
  readonly currency?: string;
  /** Stands in the header, such as kg. */
  readonly unit?: string;
}

/** What the field sheet says of one field; what is left out follows from the field itself. */
export interface SheetEntry {
  readonly field: FieldId;
  /** Handed over under this name. */
  readonly name?: string;
  /** What people read above its values. */
  readonly label?: string;
  readonly description?: string;
  readonly role?: Role;
  readonly addsUp?: AddsUp;
  /** The date whose last value counts, for a measure that adds up over everything but dates. */
  readonly lastBy?: FieldId;
  /** Of those its type and role allow; all of them when left out. */
  readonly aggregates?: readonly Aggregate[];
  readonly format?: Format;
  readonly forUseOnly?: boolean;
  /** Where its values lead to: an address with fields in it, by their ids. */
  readonly link?: string;
}

/** The entry with the fields it mentions exchanged; its own field stays. */
export const entryWithIds = (entry: SheetEntry, idOf: (id: string) => string): SheetEntry => ({
  ...entry,
  ...(entry.lastBy === undefined ? {} : { lastBy: idOf(entry.lastBy) }),
  ...(entry.link === undefined ? {} : { link: linkWithIds(entry.link, idOf) }),
});

export const SHEET_PROPERTIES = [
  'name',
  'label',
  'description',
  'role',
  'addsUp',
  'lastBy',
  'aggregates',
  'format',
  'forUseOnly',
  'link',
] as const;
export type SheetProperty = (typeof SHEET_PROPERTIES)[number];

export const formatShape: z.ZodType<Format> = z.strictObject({
  pattern: z.string().max(100),
  currency: z.string().max(10).optional(),
  unit: z.string().max(20).optional(),
}) as z.ZodType<Format>;

export const sheetEntryShape: z.ZodType<SheetEntry> = z.strictObject({
  field: id,
  name: z.string().min(1).max(200).optional(),
  label: z.string().min(1).max(200).optional(),
  description: z.string().min(1).max(2_000).optional(),
  role: z.enum(['key', 'measure', 'attribute', 'date', 'code']).optional(),
  addsUp: z.enum(ADDS_UP).optional(),
  lastBy: id.optional(),
  aggregates: z.array(z.enum(AGGREGATES)).max(AGGREGATES.length).optional(),
  format: formatShape.optional(),
  forUseOnly: z.boolean().optional(),
  link: z.string().min(1).max(LINK_MOST).optional(),
}) as z.ZodType<SheetEntry>;
