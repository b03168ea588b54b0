import type { ColumnHead, ProofTable } from '@cendra/core';
import type { Span } from './pages';
import type { SetText, Type } from './type';
import { widthOf } from './type';

/** What stands above the columns on each page: how wide it makes them, and how high it is. */

/** Sizes of a paper, in points. */
export interface Sizes {
  readonly size: number;
  /** From one line of text to the next. */
  readonly line: number;
  readonly padding: number;
  /** Columns are no wider than this. */
  readonly widest: number;
}

/** Texts above columns, of which those on one line stand at one height. */
export interface HeadLine {
  /** In lines of text. */
  readonly height: number;
  /** They stand upright, read from below. */
  readonly turned: boolean;
}

export interface HeadsPlan {
  readonly widths: readonly number[];
  /** Of the heads over columns, line by line. */
  readonly over: readonly HeadLine[];
  /** Of the columns' own. */
  readonly own: HeadLine & { readonly texts: readonly (readonly SetText[])[] };
}

/** So high is a turned head at most, in points; longer ones go on beside. */
const TURNED_MOST = 120;
/** Heads are harder to read turned: worth it where columns get narrower by so much. */
const WORTH = 0.8;

/**
 * `widest` is what the values of each column need. Where columns per value are wider than `room` together, and that because
 * of what stands above them, it is turned.
 */
export function headsPlan(table: ProofTable, widest: readonly number[], room: number, type: Type, sizes: Sizes): HeadsPlan {
  const level = standing(table, widest, type, sizes);
  if (!table.places || sum(level.widths) <= room) return level;
  const turned = upright(table, widest, type, sizes);
  return sum(turned.widths) < WORTH * sum(level.widths) ? turned : level;
}

export const sum = (widths: readonly number[]) => widths.reduce((all, each) => all + each, 0);

function standing(table: ProofTable, widest: readonly number[], type: Type, sizes: Sizes): HeadsPlan {
  const { size, padding, widest: most } = sizes;
  const width = (text: string) => widthOf(type.set(text, 'bold'), size) + 2 * padding;
  const own = table.columns.map(({ header }, column) => {
    const words = header.split(/\s+/u).map(width);
    return Math.min(most, Math.max(widest[column] ?? 0, ...words, Math.min(90, width(header))));
  });
  const widths = table.heads.flat().reduce((known: readonly number[], head) => underHead(known, head, type, sizes), own);
  // What was measured for the widest column holds for narrower ones only where nothing is broken there, so none is narrowed afterwards.
  const texts = table.columns.map(({ header }, column) => type.lines(header, 'bold', size, (widths[column] ?? 0) - 2 * padding));
  return {
    widths,
    over: table.heads.map(() => ({ height: 1, turned: false })),
    own: { height: Math.max(1, ...texts.map((each) => each.length)), turned: false, texts },
  };
}

/** The columns' own heads turned, and those of a single column each above them. */
function upright(table: ProofTable, widest: readonly number[], type: Type, sizes: Sizes): HeadsPlan {
  const { size, line, padding } = sizes;
  const single = (heads: readonly ColumnHead[]) => heads.every(({ columns }) => columns === 1);
  const texts = table.columns.map(({ header }) => turnedText(header, type, size));
  const above = table.heads.map((heads) => (single(heads) ? heads.map(({ words }) => turnedText(words, type, size)) : undefined));
  const room = (of: readonly (readonly SetText[])[]) =>
    Math.max(1, Math.ceil((Math.max(0, ...of.flat().map((each) => widthOf(each, size))) + padding) / line));
  const own = table.columns.map((_column, at) => {
    const beside = Math.max(1, texts[at]?.length ?? 1, ...above.map((each) => each?.[at]?.length ?? 1));
    return Math.max(widest[at] ?? 0, beside * line + 2 * padding);
  });
  const level = table.heads.filter((heads) => !single(heads)).flat();
  return {
    widths: level.reduce((known: readonly number[], head) => underHead(known, head, type, sizes), own),
    over: above.map((each) => (each ? { height: room(each), turned: true } : { height: 1, turned: false })),
    own: { height: room(texts), turned: true, texts },
  };
}

/** A turned head in lines that stand beside one another. */
export const turnedText = (text: string, type: Type, size: number): readonly SetText[] => type.lines(text, 'bold', size, TURNED_MOST);

/** The columns below a head. */
export const spanOf = ({ first, places, columns }: ColumnHead): Span => {
  const from = (first * columns) / places;
  return { from, until: from + columns };
};

/** The columns below a head wide enough for it: a value that stands across is said nowhere else. */
function underHead(widths: readonly number[], head: ColumnHead, type: Type, { size, padding, widest }: Sizes): readonly number[] {
  const { words, columns } = head;
  const { from, until } = spanOf(head);
  const room = sum(widths.slice(from, until));
  // A hair more, as widths are added up and taken apart again.
  const missing = Math.min(widthOf(type.set(words, 'bold'), size) + 2 * padding + 0.1, widest * columns) - room;
  return missing <= 0 ? widths : widths.map((each, at) => (at >= from && at < until ? each + missing / columns : each));
}
