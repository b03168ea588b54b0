import { saying, tokensOf } from './tokens';

/** Words in a row that are compared as one. */
const RUN = 3;

/** What a text says, without how it is laid out, commented and cased: runs of its words. */
export function runsOfWords(text: string): ReadonlySet<string> {
  const words = saying(tokensOf(text)).map(({ kind, text: own }) => (kind === 'word' ? own.toLowerCase() : own));
  const runs = words.slice(0, Math.max(1, words.length - RUN + 1)).map((_word, at) => words.slice(at, at + RUN).join(' '));
  return new Set(runs);
}

/** How alike two texts are, from 0 to 1: the share of runs of words that stand in both of all that stand in either (Jaccard). */
export function likeness(a: ReadonlySet<string>, b: ReadonlySet<string>): number {
  const both = [...a].filter((each) => b.has(each)).length;
  return both / Math.max(1, a.size + b.size - both);
}
