import { wordsWithIds } from '../parameters';
import { linkWithIds } from '../sheet';
import type { Also, Layout } from './layout';
import { LAYOUT_WORDS, withLevels } from './layout';
import { markWithIds } from './mark-values';
import { figuresWithIds } from './title-figures';

const wordsExchanged = (words: string, idOf: (id: string) => string) => figuresWithIds(wordsWithIds(words, idOf), idOf);

function alsoWithIds(also: Also, idOf: (id: string) => string): Also {
  if (also.of === 'span') return also;
  if (also.of === 'field') return { ...also, step: idOf(also.step), field: idOf(also.field) };
  return { ...also, parameter: idOf(also.parameter) };
}

/** The layout with ids exchanged: of fields and of parameters, wherever they stand in it. */
export function layoutWithIds(layout: Layout, idOf: (id: string) => string): Layout {
  const field = <T extends { readonly field: string }>(each: T): T => ({ ...each, field: idOf(each.field) });
  const { marks, totals, chart, link } = layout;
  const words = LAYOUT_WORDS.flatMap((each) => (layout[each] === undefined ? [] : [[each, wordsExchanged(layout[each], idOf)]]));
  return {
    ...withLevels(layout, (level) => ({
      ...field(level),
      ...(level.shown === undefined ? {} : { shown: idOf(level.shown) }),
      ...(level.heads ? { heads: level.heads.map(idOf) } : {}),
      ...(level.by ? { by: field(level.by) } : {}),
      ...(level.also ? { also: alsoWithIds(level.also, idOf) } : {}),
    })),
    marks: marks.map((each) => markWithIds(each, idOf)),
    ...(totals ? { totals: totals.map(field) } : {}),
    ...(chart ? { chart: field(chart) } : {}),
    ...Object.fromEntries(words),
    ...(link === undefined ? {} : { link: linkWithIds(link, idOf) }),
  };
}
