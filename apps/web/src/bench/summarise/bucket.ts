import type { DayStretch, ExpressionText } from '@cendra/core';

export const AS_IT_IS = 'as it is';

/** `start_of_month(picked_on)` as its field and its stretch of days; `from` is where the field begins in the text. */
export function bucketOf({
  text,
}: ExpressionText): { readonly bucket: DayStretch; readonly inner: string; readonly from: number } | undefined {
  const found = /^\s*start_of_(week|month|quarter|year|season)\((.*)\)\s*$/s.exec(text);
  // What is grouped by stands behind the first parenthesis of either form.
  const from = text.indexOf('(') + 1;
  if (found) return { bucket: found[1] as DayStretch, inner: found[2] ?? '', from };
  const day = /^\s*cast\((.*) as date\)\s*$/s.exec(text);
  return day ? { bucket: 'day', inner: day[1] ?? '', from } : undefined;
}
