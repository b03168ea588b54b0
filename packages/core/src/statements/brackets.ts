import type { TextToken } from './tokens';

const OPEN = ['(', '['];
const CLOSE = [')', ']'];

/** The place of the bracket that closes one; behind the last token where none does. */
export function closingOf(tokens: readonly TextToken[], open: number): number {
  let depth = 0;
  for (let at = open; at < tokens.length; at++) {
    const { kind, text } = tokens[at] ?? { kind: 'other', text: '' };
    if (kind === 'mark' && OPEN.includes(text)) depth++;
    if (kind === 'mark' && CLOSE.includes(text) && --depth === 0) return at;
  }
  return tokens.length;
}

/** The place of the bracket that opens the one closed at a place; -1 where none does. */
export function openingOf(tokens: readonly TextToken[], close: number): number {
  let depth = 0;
  for (let at = close; at >= 0; at--) {
    const { kind, text } = tokens[at] ?? { kind: 'other', text: '' };
    if (kind === 'mark' && CLOSE.includes(text)) depth++;
    if (kind === 'mark' && OPEN.includes(text) && --depth === 0) return at;
  }
  return -1;
}
