/** Text operations by code point, as the expression language means them. Blanks are U+0020 only. */

/** Where a text has none of these, its code points are its UTF-16 units. */
const SURROGATE = /[\uD800-\uDFFF]/;

/** Code points of a text. */
export function charLength(text: string): number {
  return SURROGATE.test(text) ? [...text].length : text.length;
}

/**
 * The SQL standard's substring: positions count from 1, and a start before the text uses up length.
 * Undefined for a negative length.
 */
export function substring(text: string, from: bigint, length: bigint | undefined): string | undefined {
  if (length !== undefined && length < 0n) return undefined;
  const chars = SURROGATE.test(text) ? [...text] : undefined;
  const last = BigInt(chars?.length ?? text.length);
  const begin = clamp(from, 1n, last + 1n);
  const end = length === undefined ? last + 1n : clamp(from + length, begin, last + 1n);
  const cut = [Number(begin) - 1, Number(end) - 1] as const;
  return chars ? chars.slice(...cut).join('') : text.slice(...cut);
}

const clamp = (value: bigint, low: bigint, high: bigint) => (value < low ? low : value > high ? high : value);

/** Where `sought` first begins, counted from 1; 0 when it is nowhere; 1 for empty text. */
export function positionOf(sought: string, text: string): number {
  const at = text.indexOf(sought);
  return at < 0 ? 0 : charLength(text.slice(0, at)) + 1;
}

export type TrimSide = 'both' | 'leading' | 'trailing';

/** The text without the character at its ends. */
export function trimText(text: string, char: string, side: TrimSide): string {
  let [from, to] = [0, text.length];
  while (side !== 'trailing' && from < to && text.startsWith(char, from)) from += char.length;
  while (side !== 'leading' && to - from >= char.length && text.startsWith(char, to - char.length)) to -= char.length;
  return text.slice(from, to);
}

/** Every occurrence exchanged, from the left; an empty `from` changes nothing. */
export function replaceText(text: string, from: string, to: string): string {
  return from === '' ? text : text.split(from).join(to);
}

/** Zeros before the text until it has `length` code points; never cut. */
export function padZeros(text: string, length: number): string {
  return '0'.repeat(Math.max(0, length - charLength(text))) + text;
}

/** A sign between groups of digits, counted from the right. */
export function groupDigits(digits: string, size: number, sign: string): string {
  const groups: string[] = [];
  for (let end = digits.length; end > 0; end -= size) groups.unshift(digits.slice(Math.max(0, end - size), end));
  return groups.join(sign);
}

const characters = new Intl.Segmenter();
/** No character a reader sees as one is longer, in UTF-16 units; a longer one is cut all the same. */
const LONGEST_CHARACTER = 64;

/** The beginning of a text, of at most so many UTF-16 units: no character is cut in two, nor one off its accents. */
export function beginning(text: string, most: number): string {
  if (text.length <= most) return text;
  let end = 0;
  for (const { index, segment } of characters.segment(text.slice(0, most + LONGEST_CHARACTER))) {
    if (index + segment.length > most) break;
    end = index + segment.length;
  }
  return text.slice(0, end);
}
