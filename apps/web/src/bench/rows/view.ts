import type { SortBy } from './sort';

/** How the rows of a step are looked at. Nothing of it changes the dataset. */
export interface RowsView {
  readonly sort: readonly SortBy[];
  /** Fields in the order they were put in; others follow as they come. */
  readonly order: readonly string[];
  readonly hidden: readonly string[];
  /** How many of the shown fields stay in place when the others scroll. */
  readonly frozen: number;
  /** Widths in pixels that were set by hand. */
  readonly widths: Readonly<Record<string, number>>;
}

export const PLAIN_VIEW: RowsView = { sort: [], order: [], hidden: [], frozen: 0, widths: {} };

export const LEAST_WIDTH = 40;
export const MOST_WIDTH = 900;

/** The columns as the view shows them: ordered, without the hidden ones. */
export function shownColumns<C extends { readonly id: string }>(columns: readonly C[], { order, hidden }: RowsView): readonly C[] {
  const place = new Map(order.map((id, index) => [id, index]));
  return columns
    .filter((each) => !hidden.includes(each.id))
    .toSorted((a, b) => (place.get(a.id) ?? order.length) - (place.get(b.id) ?? order.length));
}

/** Upwards, then downwards, then as they come; `also` keeps what the rows are sorted by before. */
export function sortedBy(view: RowsView, field: string, also: boolean): RowsView {
  const now = view.sort.find((each) => each.field === field);
  const next: readonly SortBy[] = !now ? [{ field, descending: false }] : now.descending ? [] : [{ field, descending: true }];
  if (!also) return { ...view, sort: next };
  const [changed] = next;
  const others = view.sort.filter((each) => each.field !== field);
  return { ...view, sort: now && changed ? view.sort.map((each) => (each.field === field ? changed : each)) : [...others, ...next] };
}

export const sortedOnlyBy = (view: RowsView, field: string, descending: boolean): RowsView => ({ ...view, sort: [{ field, descending }] });

/** The field moved one place among those shown. */
export function moved(view: RowsView, shown: readonly string[], field: string, by: -1 | 1): RowsView {
  const from = shown.indexOf(field);
  const to = from + by;
  if (from < 0 || to < 0 || to >= shown.length) return view;
  return { ...view, order: shown.toSpliced(from, 1).toSpliced(to, 0, field) };
}

export function hiding(view: RowsView, shown: readonly string[], field: string): RowsView {
  const at = shown.indexOf(field);
  // The last field stays: rows without any could not be told from none.
  if (shown.length <= 1 || at < 0) return view;
  return { ...view, hidden: [...view.hidden, field], frozen: at < view.frozen ? view.frozen - 1 : view.frozen };
}

/** Freezes the fields up to and with this one; where it is the last frozen one, none. */
export function frozenUpTo(view: RowsView, shown: readonly string[], field: string): RowsView {
  const count = shown.indexOf(field) + 1;
  return { ...view, frozen: view.frozen === count ? 0 : count };
}

export function resized(view: RowsView, field: string, width: number): RowsView {
  return { ...view, widths: { ...view.widths, [field]: Math.round(Math.min(MOST_WIDTH, Math.max(LEAST_WIDTH, width))) } };
}
