import { z } from 'zod';
import type { FieldType } from './type';
import { TYPE_KINDS } from './type';

/** A type as it is stored: where the dataset is, is said once, in its calendar. */
export const typeShape: z.ZodType<FieldType> = z.union([
  z.strictObject({
    kind: z.literal('decimal'),
    precision: z.int().min(1).max(38),
    scale: z.int().min(0).max(38),
    open: z.literal(true).optional(),
  }) as z.ZodType<FieldType>,
  z.strictObject({
    kind: z.enum(TYPE_KINDS.filter((each) => each !== 'decimal') as [Exclude<FieldType['kind'], 'decimal'>]),
  }) as z.ZodType<FieldType>,
]);
