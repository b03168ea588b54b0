import type { Span } from '../problem';
import type { TextToken } from '../statements';
import { closingOf, isMark, isWord } from '../statements';

/** The words of one select by its clauses; spans are of the text. */
export interface SelectWords {
  /** What stands behind `select`, item by item. */
  readonly targets: readonly Span[];
  readonly from: Span | undefined;
  /** Conditions of `where` that are joined by `and`. */
  readonly where: readonly Span[];
  readonly groups: readonly Span[];
  /** The words of the queries in parentheses that `from` reads, in their order. */
  readonly queries: readonly (readonly TextToken[])[];
}

const CLAUSES = ['from', 'where', 'group', 'having', 'window', 'order', 'limit', 'offset', 'fetch', 'union', 'intersect', 'except'];

/** The clauses of a select, given from its first word on, with parentheses around it taken off. */
export function selectWords(words: readonly TextToken[]): SelectWords {
  const begins = new Map<string, number>();
  let [depth, cases] = [0, 0];
  const start = words.findIndex((each) => isWord(each, 'select'));
  words.forEach((token, at) => {
    if (at <= start) return;
    if (isMark(token, '(') || isMark(token, '[')) depth++;
    else if (isMark(token, ')') || isMark(token, ']')) depth--;
    else if (isWord(token, 'case')) cases++;
    else if (isWord(token, 'end')) cases--;
    const clause = CLAUSES.find((each) => isWord(token, each));
    const distinct = clause === 'from' && isWord(words[at - 1], 'distinct');
    if (depth === 0 && cases === 0 && clause !== undefined && !distinct && !begins.has(clause)) begins.set(clause, at);
  });
  const end = (from: number) => Math.min(...[...begins.values()].filter((each) => each > from), words.length);
  const clause = (name: string, skipped: number) => {
    const at = begins.get(name);
    return at === undefined ? [] : words.slice(at + skipped, end(at));
  };
  const listed = words.slice(behindDistinct(words, start + 1), Math.min(...begins.values(), words.length));
  const from = clause('from', 1);
  return {
    targets: split(listed, isComma),
    from: spanOf(from),
    where: split(clause('where', 1), isAnd),
    groups: split(clause('group', 2), isComma),
    queries: queriesIn(from),
  };
}

function behindDistinct(words: readonly TextToken[], at: number): number {
  if (isWord(words[at], 'all')) return at + 1;
  if (!isWord(words[at], 'distinct')) return at;
  return isWord(words[at + 1], 'on') ? closingOf(words, at + 2) + 1 : at + 1;
}

const isComma = (token: TextToken) => isMark(token, ',');
const isAnd = (token: TextToken) => isWord(token, 'and');

/** Parts between separators that stand outside parentheses, cases and the two ends of a `between`. */
function split(words: readonly TextToken[], separates: (token: TextToken) => boolean): readonly Span[] {
  const parts: TextToken[][] = [[]];
  let [depth, cases, betweens] = [0, 0, 0];
  for (const token of words) {
    if (isMark(token, '(') || isMark(token, '[')) depth++;
    else if (isMark(token, ')') || isMark(token, ']')) depth--;
    else if (isWord(token, 'case')) cases++;
    else if (isWord(token, 'end')) cases--;
    const outside = depth === 0 && cases === 0;
    if (outside && isWord(token, 'between')) betweens++;
    if (outside && betweens > 0 && isAnd(token)) betweens--;
    else if (outside && separates(token)) {
      parts.push([]);
      continue;
    }
    parts.at(-1)?.push(token);
  }
  return parts.flatMap((each) => spanOf(each) ?? []);
}

function spanOf(words: readonly TextToken[]): Span | undefined {
  const [first, last] = [words[0], words.at(-1)];
  return first && last && { from: first.from, to: last.to };
}

/** Queries that stand where a table could. */
function queriesIn(from: readonly TextToken[]): readonly (readonly TextToken[])[] {
  const found: (readonly TextToken[])[] = [];
  for (let at = 0; at < from.length; at++) {
    if (!isMark(from[at], '(')) continue;
    const before = from[at - 1];
    const place = !before || isMark(before, ',') || isMark(before, '(') || isWord(before, 'join', 'lateral');
    if (!place) at = closingOf(from, at);
    else if (isWord(from[at + 1], 'select', 'with', 'values')) {
      const close = closingOf(from, at);
      found.push(from.slice(at + 1, close));
      at = close;
    }
  }
  return found;
}

/** The arms of a union, each without parentheses around it. */
export function armsOf(words: readonly TextToken[]): readonly (readonly TextToken[])[] {
  const arms: TextToken[][] = [[]];
  let depth = 0;
  words.forEach((token, at) => {
    if (isMark(token, '(')) depth++;
    else if (isMark(token, ')')) depth--;
    if (depth === 0 && isWord(token, 'union')) arms.push([]);
    else if (!(isWord(token, 'all', 'distinct') && isWord(words[at - 1], 'union'))) arms.at(-1)?.push(token);
  });
  return arms.map(withoutParentheses);
}

function withoutParentheses(words: readonly TextToken[]): readonly TextToken[] {
  return isMark(words[0], '(') && closingOf(words, 0) === words.length - 1 ? withoutParentheses(words.slice(1, -1)) : words;
}
