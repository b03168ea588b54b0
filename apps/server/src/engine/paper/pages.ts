/** What a line takes on paper: how many lines of text it is high, and what it is among the groups. */
export interface Measured {
  readonly height: number;
  readonly kind: 'header' | 'row' | 'totals';
  /** How many levels its group is made by. */
  readonly level: number;
}

/** A part of a line on a page: so many of its lines of text, from one of them on. All of it, nearly always. */
export interface Piece {
  readonly line: number;
  readonly from: number;
  readonly height: number;
}

export interface Room {
  /** Lines of text the first page holds, which has the title, and every other one. */
  readonly first: number;
  readonly others: number;
}

/**
 * Cuts lines into pages. Groups of the last level stand on one page where one page holds them; a header never stands
 * alone at the foot of one. A line that is higher than a page goes on on the next one: nothing is left out.
 */
export function pagesOf(lines: readonly Measured[], { first, others }: Room): readonly (readonly Piece[])[] {
  const levels = lines.reduce((most, { kind, level }) => (kind === 'header' ? Math.max(most, level) : most), 0);
  const pages: Piece[][] = [[]];
  let left = first;
  const turn = () => {
    pages.push([]);
    left = others;
  };
  const put = (line: number) => {
    const { height } = lines[line] as Measured;
    for (let from = 0; from < height;) {
      if (left < 1 || (left < height - from && height - from <= others && left < others)) turn();
      const part = Math.min(left, height - from);
      pages.at(-1)?.push({ line, from, height: part });
      left -= part;
      from += part;
    }
  };
  for (let at = 0; at < lines.length;) {
    const end = endOf(lines, at, levels, others);
    const height = heightOf(lines, at, end);
    if (height > left && height <= others && (pages.at(-1)?.length ?? 0) > 0) turn();
    for (; at < end; at++) put(at);
  }
  return pages;
}

/** Behind the last line that is to stand with the one at a place: its group where a page holds it, else as little as makes sense. */
function endOf(lines: readonly Measured[], at: number, levels: number, most: number): number {
  const line = lines[at];
  if (line?.kind !== 'header') return at + 1;
  // At least its headers with the first line below them.
  let below = at + 1;
  while (lines[below]?.kind === 'header' && (lines[below]?.level ?? 0) > (lines[below - 1]?.level ?? 0)) below++;
  const few = Math.min(below + 1, lines.length);
  const least = heightOf(lines, at, few) <= most ? few : at + 1;
  if (line.level < levels) {
    const inner = at + 1 < lines.length ? endOf(lines, at + 1, levels, most) : at + 1;
    return heightOf(lines, at, inner) <= most ? inner : least;
  }
  let end = at + 1;
  while (end < lines.length && !begins(lines[end] as Measured, line.level)) end++;
  return heightOf(lines, at, end) <= most ? end : least;
}

/** Whether a line is none of the group before it any more. */
const begins = ({ kind, level }: Measured, own: number) => kind === 'header' || (kind === 'totals' && level < own);

const heightOf = (lines: readonly Measured[], from: number, until: number): number => {
  let sum = 0;
  for (let at = from; at < until; at++) sum += lines[at]?.height ?? 0;
  return sum;
};

/** Columns below one head: from the first on, up to the one before `until`. */
export interface Span {
  readonly from: number;
  readonly until: number;
}

/**
 * Columns side by side that a page is wide enough for; those behind stand on further pages, with the first one repeated.
 * What stands below one head stays on one page where it fits on one; `heads` are those over columns, from the outermost in.
 */
export function slicesOf(
  widths: readonly number[],
  lead: number,
  most: number,
  heads: readonly (readonly Span[])[] = [],
): readonly (readonly number[])[] {
  const widthOf = ({ from, until }: Span) => widths.slice(from, until).reduce((sum, each) => sum + each, 0);
  const parts = (within: Span, depth: number): readonly Span[] => {
    if (lead + widthOf(within) <= most) return [within];
    const inside =
      heads[depth]?.filter(({ from, until }) => from >= within.from && until <= within.until) ??
      Array.from({ length: within.until - within.from }, (_each, at) => ({ from: within.from + at, until: within.from + at + 1 }));
    return inside.flatMap((each) => (depth < heads.length ? parts(each, depth + 1) : [each]));
  };
  const slices: number[][] = [[]];
  let used = lead;
  for (const part of parts({ from: 0, until: widths.length }, 0)) {
    const width = widthOf(part);
    if (used + width > most && (slices.at(-1)?.length ?? 0) > 0) {
      slices.push([]);
      used = lead;
    }
    for (let column = part.from; column < part.until; column++) slices.at(-1)?.push(column);
    used += width;
  }
  return slices;
}
