import type { SheetField } from '@cendra/core';
import { isNumber } from '@cendra/core';

/** A character of a figure, and what stands around a cell. */
const FIGURE = 7.2;
const PADDING = 20;
const LEAST = 56;
const MOST = 420;

/**
 * Pixels a column needs for all its values, by the longest text or the number of the greatest size of the whole
 * result, written as the column writes it, and for its header.
 */
export function fittingWidth(
  field: SheetField,
  extent: string | null,
  header: string,
  write: (wire: string) => string,
  totals: readonly string[],
): number {
  const longest = Math.max(header.length, ...totals.map((each) => each.length), ...valueLengths(field, extent, write));
  return Math.min(MOST, Math.max(LEAST, Math.ceil(longest * FIGURE + PADDING)));
}

function valueLengths({ type }: SheetField, extent: string | null, write: (wire: string) => string): readonly number[] {
  if (type.kind === 'text' || type.kind === 'json' || (type.kind === 'decimal' && type.open)) return [Number(extent ?? 0)];
  if (isNumber(type)) return extent === null ? [] : [write(`-${extent.replace(/^-/, '')}`).length];
  return [write(SAMPLES[type.kind] ?? '').length];
}

/** The longest day and month names. */
const SAMPLES: Readonly<Record<string, string>> = {
  date: '2025-09-24',
  datetime: '2025-09-24 22:58:58',
  instant: '2025-09-24 22:58:58+00',
  time: '22:58:58',
  yesno: 'true',
};
