import { wordsWithIds } from '../parameters';
import type { Layout } from './layout';
import { withLevels } from './layout';
import { markWithIds } from './mark-values';

/** The layout with ids exchanged: of fields and of parameters, wherever they stand in it. */
export function layoutWithIds(layout: Layout, idOf: (id: string) => string): Layout {
  const field = <T extends { readonly field: string }>(each: T): T => ({ ...each, field: idOf(each.field) });
  const { marks, totals, chart, title, note } = layout;
  return {
    ...withLevels(layout, (level) => ({ ...field(level), ...(level.by ? { by: field(level.by) } : {}) })),
    marks: marks.map((each) => markWithIds(each, idOf)),
    ...(totals ? { totals: totals.map(field) } : {}),
    ...(chart ? { chart: field(chart) } : {}),
    ...(title === undefined ? {} : { title: wordsWithIds(title, idOf) }),
    ...(note === undefined ? {} : { note: wordsWithIds(note, idOf) }),
  };
}
