import { levelOfTotal, totalsOf } from './check';
import { withoutHeads } from './heads';
import type { SheetField } from '../sheet';
import type { Chart, Layout, Total } from './layout';
import { allLevels } from './layout';

/** So many groups are drawn beside one another at most: bars need room, lines do not. */
export const DRAWN_MOST: Readonly<Record<Chart['as'], number>> = {
  'bars side by side': 40,
  'bars stacked': 60,
  lines: 400,
  areas: 400,
  points: 400,
};
/** Series in one chart, and small charts beside one another, at most: more cannot be told apart. */
export const SERIES_MOST = 12;
export const SMALL_MOST = 12;

/** Bars and areas are read by their length, so they begin at zero. */
export const beginsAtZero = ({ as }: Pick<Chart, 'as'>): boolean => as !== 'lines' && as !== 'points';

/** What a chart draws of a proof: one figure of each group. */
export interface ChartReading {
  readonly chart: Chart;
  /** The layout whose lines are drawn: groups only, with nothing but the figure. */
  readonly layout: Layout & { readonly totals: readonly Total[] };
  /** Groups of the first level are small charts of their own. */
  readonly small: boolean;
}

/**
 * The groups of a proof as a chart draws them: those of the first level beside one another, a series per value that
 * stands across. Without columns per value and with a second level, a small chart per group of the first one. Undefined
 * where the layout draws nothing, or has no groups to draw.
 */
export function chartReading(layout: Layout, fields: readonly SheetField[]): ChartReading | undefined {
  const { chart, across } = layout;
  const [first, second] = layout.levels;
  if (!chart || !first) return undefined;
  const total: Total = { field: chart.field, aggregate: chart.aggregate };
  const small = !across && second !== undefined;
  const levels = withoutHeads(small && second ? [first, second] : [first]).map((each) => ({ ...each, subtotal: false }));
  const beside = across && { ...across, levels: across.levels.map((each) => ({ ...each, subtotal: false })), total: false };
  const own: Layout = { levels, rows: false, grandTotal: false, marks: [], ...(beside ? { across: beside } : {}) };
  const field = fields.find((each) => each.id === chart.field);
  const shown = levelOfTotal({ levels: allLevels(own) }, total, field);
  return shown === undefined ? undefined : { chart, layout: { ...own, totals: [total] }, small };
}

/** The chart that is begun with: the first figure of the proof, as lines over dates and as bars over anything else. */
export function firstChart(layout: Layout, fields: readonly SheetField[]): Chart | undefined {
  const [total] = totalsOf(layout, fields);
  const over = fields.find((each) => each.id === layout.levels[0]?.field);
  if (!total || !over) return undefined;
  return { as: over.role === 'date' ? 'lines' : 'bars side by side', field: total.field, aggregate: total.aggregate };
}
