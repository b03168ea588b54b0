import { z } from 'zod';

/** Which rows a join keeps. */
export interface Kept {
  /** Rows that meet, once for each partner. */
  readonly met: boolean;
  /** Rows of the first input that meet none. */
  readonly left: boolean;
  /** Rows of the second input that meet none. */
  readonly right: boolean;
}

export const keptShape: z.ZodType<Kept> = z.strictObject({ met: z.boolean(), left: z.boolean(), right: z.boolean() });

/** The standard name of the join that keeps just these; undefined where none does. */
export function joinName({ met, left, right }: Kept, paired = true): string | undefined {
  if (!paired) return met ? 'cross join' : undefined;
  if (met) return left ? (right ? 'full join' : 'left join') : right ? 'right join' : 'inner join';
  if (left && right) return 'full join of rows without a partner';
  if (left) return 'anti join: rows of the first side without a partner';
  return right ? 'anti join: rows of the second side without a partner' : undefined;
}
