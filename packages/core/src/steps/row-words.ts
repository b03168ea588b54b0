import { z } from 'zod';

/** What rows are called: one and several of them. */
export interface RowWords {
  readonly row: string;
  readonly rows: string;
}

export const rowWordsShape: z.ZodType<RowWords> = z.strictObject({ row: z.string().min(1).max(60), rows: z.string().min(1).max(60) });
