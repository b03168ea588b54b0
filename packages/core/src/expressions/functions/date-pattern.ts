/**
 * Date patterns: a subset of Unicode LDML (UTS 35, part 4). Letters stand for parts of a date or time, text in
 * single quotes and signs for themselves. Names are English.
 */
export type DatePart = 'year' | 'quarter' | 'month' | 'day' | 'weekday' | 'hour' | 'hour12' | 'halfday' | 'minute' | 'second' | 'fraction';

export type PatternPiece =
  | { readonly kind: 'text'; readonly text: string }
  /** `style` is the number of letters: 1 plain, 2 two digits, 3 short name, 4 full name or four digits. */
  | { readonly kind: 'part'; readonly part: DatePart; readonly style: number };

const LETTERS: Readonly<Record<string, { readonly part: DatePart; readonly styles: readonly number[] }>> = {
  y: { part: 'year', styles: [1, 2, 4] },
  Q: { part: 'quarter', styles: [1, 2, 3] },
  M: { part: 'month', styles: [1, 2, 3, 4] },
  d: { part: 'day', styles: [1, 2] },
  E: { part: 'weekday', styles: [1, 2, 3, 4] },
  H: { part: 'hour', styles: [1, 2] },
  h: { part: 'hour12', styles: [1, 2] },
  a: { part: 'halfday', styles: [1] },
  m: { part: 'minute', styles: [1, 2] },
  s: { part: 'second', styles: [1, 2] },
  S: { part: 'fraction', styles: [1, 2, 3, 4, 5, 6] },
};

export const CLOCK_PARTS: readonly DatePart[] = ['hour', 'hour12', 'halfday', 'minute', 'second', 'fraction'];

export const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];
export const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

/** The pieces of a pattern, or in words what is wrong with it. */
export function readDatePattern(source: string): readonly PatternPiece[] | string {
  const pieces: PatternPiece[] = [];
  for (let at = 0; at < source.length;) {
    const char = source.charAt(at);
    if (char === "'") {
      const close = source.indexOf("'", at + 1);
      if (close < 0) return 'a quoted text in it is not closed';
      pieces.push({ kind: 'text', text: close === at + 1 ? "'" : source.slice(at + 1, close) });
      at = close + 1;
    } else if (/[A-Za-z]/.test(char)) {
      let end = at;
      while (source.charAt(end) === char) end++;
      const letter = Object.hasOwn(LETTERS, char) ? LETTERS[char] : undefined;
      const style = end - at;
      if (!letter) return `“${char}” stands for nothing in it; text stands in single quotes`;
      if (!letter.styles.includes(style)) return `“${char.repeat(style)}” stands for nothing in it`;
      pieces.push({ kind: 'part', part: letter.part, style });
      at = end;
    } else {
      pieces.push({ kind: 'text', text: char });
      at++;
    }
  }
  return pieces.some((each) => each.kind === 'part') ? pieces : 'it names no part of a date';
}
