import type { Between } from './edits';

interface Known {
  readonly id: string;
}

/** The place in front of the item that stands at an index; beyond the last one it is the end. */
export function placeAt(items: readonly Known[], index: number): Between {
  const at = Math.min(Math.max(index, 0), items.length);
  return { after: items[at - 1]?.id ?? null, before: items[at]?.id ?? null };
}

/** The end of a list. */
export const placeAtEnd = (items: readonly Known[]): Between => placeAt(items, items.length);

/** The place an item of the list stands in. */
export function placeOf(items: readonly Known[], id: string): Between {
  const at = items.findIndex((each) => each.id === id);
  return { after: items[at - 1]?.id ?? null, before: at < 0 ? null : (items[at + 1]?.id ?? null) };
}

/** The index of a place; undefined where its sides are not there, or something stands between them by now. */
export function indexOfPlace(items: readonly Known[], { after, before }: Between): number | undefined {
  const index = after === null ? 0 : items.findIndex((each) => each.id === after) + 1;
  if (after !== null && index === 0) return undefined;
  return (items[index]?.id ?? null) === before ? index : undefined;
}
