import { saying, tokensOf } from './tokens';

/** Words in a row that are compared as one. */
const RUN = 3;
/** So many runs stand for a text; one of fewer is compared exactly. */
const MOST = 256;

/**
 * What a text says, without how it is laid out, commented and cased, as few enough numbers to keep many of: the least
 * hashes of its runs of three words (bottom-k sketch; Cohen and Kaplan 2007), in ascending order.
 */
export function sketchOf(text: string): readonly number[] {
  const words = saying(tokensOf(text)).map(({ kind, text: own }) => (kind === 'word' ? own.toLowerCase() : own));
  const runs = new Set(words.slice(0, Math.max(1, words.length - RUN + 1)).map((_word, at) => hash(words.slice(at, at + RUN).join(' '))));
  return [...runs].sort((a, b) => a - b).slice(0, MOST);
}

/** FNV-1a over UTF-16 units, as a whole number below 2³¹. */
function hash(text: string): number {
  let value = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) value = Math.imul(value ^ text.charCodeAt(at), 0x01000193);
  return value >>> 1;
}

/** How alike two texts are, from 0 to 1: of the runs of words that stand in either, the share that stands in both (Jaccard), as far as their sketches tell. */
export function likeness(a: readonly number[], b: readonly number[]): number {
  const [inA, inB] = [new Set(a), new Set(b)];
  const either = [...new Set([...a, ...b])].sort((x, y) => x - y).slice(0, MOST);
  const both = either.filter((each) => inA.has(each) && inB.has(each)).length;
  return both / Math.max(1, either.length);
}
