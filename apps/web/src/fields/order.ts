import type { Definition, Edit, SheetField } from '@cendra/core';

/** The ids with one of them at another place; the same list where nothing moves. */
export function movedTo(ids: readonly string[], id: string, at: number): readonly string[] {
  const from = ids.indexOf(id);
  if (from < 0 || at < 0 || at >= ids.length || at === from) return ids;
  return ids.toSpliced(from, 1).toSpliced(at, 0, id);
}

/** The order of all fields, those that are handed over as given and those for use only behind them. */
export function orderEdit({ order }: Definition, fields: readonly SheetField[], handed: readonly string[]): Edit {
  const rest = fields.filter((each) => !handed.includes(each.id)).map((each) => each.id);
  return { kind: 'set dataset', property: 'order', from: order, to: [...handed, ...rest] };
}
