import { z } from 'zod';
import { idShape } from '../ids';

export const BRIEF_KINDS = ['rows', 'field', 'figure'] as const;

/** One thing that was asked for. It is ticked by hand, once somebody saw that it is met. */
export interface BriefItem {
  readonly id: string;
  readonly kind: (typeof BRIEF_KINDS)[number];
  readonly text: string;
  /** Of a figure: the number to agree with, as it was given. */
  readonly figure: string;
  readonly met: boolean;
}

/** What was asked for, kept with the dataset. */
export interface Brief {
  readonly request: string;
  readonly items: readonly BriefItem[];
}

export const NO_BRIEF: Brief = { request: '', items: [] };

export const briefItemShape: z.ZodType<BriefItem> = z.strictObject({
  id: idShape,
  kind: z.enum(BRIEF_KINDS),
  text: z.string().max(500),
  figure: z.string().max(100),
  met: z.boolean(),
});

export const briefShape: z.ZodType<Brief> = z.strictObject({
  request: z.string().max(10_000),
  items: z.array(briefItemShape).max(200),
});
