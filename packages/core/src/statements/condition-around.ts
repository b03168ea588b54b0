import type { Span } from '../problem';
import { closingOf, openingOf } from './brackets';
import type { TextToken } from './tokens';
import { isMark, isWord } from './tokens';

/** A condition of its own in a text, or why there is none. */
export type Around = (Span & { readonly whole: true }) | { readonly whole: false; readonly because: string };

const BEGINS = ['where', 'on', 'having', 'and'];
/** What a list of conditions joined by `and` ends at. */
const ENDS = [
  'group',
  'order',
  'having',
  'window',
  'limit',
  'offset',
  'fetch',
  'union',
  'intersect',
  'except',
  'for',
  'join',
  'left',
  'right',
  'full',
  'inner',
  'cross',
  'natural',
  'where',
  'and',
  'qualify',
];
/** An operand is looked for over so many tokens, so that a text of any length is read in time. */
const REACH = 2_000;
const NO_CONDITION = 'it is not compared with anything in a “where”, “on” or “having”';

/**
 * The smallest condition that holds the tokens from `first` to `last` and is joined to the others by `and`, outwards up
 * to `where`, `on` or `having`: there, and nowhere else, `true` in its stead asks nothing. Blanks and comments are not
 * among the tokens.
 */
export function conditionAround(tokens: readonly TextToken[], first: number, last: number): Around {
  let [from, to] = [first, last];
  /** Found, and what is around it has to be joined by `and` as well. */
  let found: Span | undefined;
  for (;;) {
    const left = leftOf(tokens, from);
    const right = rightOf(tokens, to);
    if (isWord(left.token, 'or') || isWord(right.token, 'or')) return none('it stands beside an “or”');
    if (isWord(left.token, 'not')) return none('it stands behind a “not”');
    if (isWord(left.token, 'when', 'then', 'else', 'case') || isWord(right.token, 'then', 'when', 'else', 'end'))
      return none('it stands in a “case”');
    const inParentheses = isMark(left.token, '(');
    const begins = inParentheses || isWord(left.token, ...BEGINS);
    const ends = right.token === undefined || isMark(right.token, ')') || isMark(right.token, ';') || isWord(right.token, ...ENDS);
    if (!begins || !ends) {
      // Arguments of a function, or items of a list: the condition is around them.
      const group = found ? undefined : enclosing(tokens, from, to);
      if (!group) return none(NO_CONDITION);
      [from, to] = group;
      continue;
    }
    const own = { from: tokens[left.at + 1]?.from ?? 0, to: tokens[right.at - 1]?.to ?? 0 };
    if (!inParentheses) return isCompared(tokens, left.at + 1, right.at - 1) ? { ...(found ?? own), whole: true } : none(NO_CONDITION);
    const close = isMark(right.token, ')') ? right.at : closing(tokens, right.at);
    if (close === undefined) return none(NO_CONDITION);
    const before = tokens[left.at - 1];
    if (isWord(before, 'not')) return none('it stands behind a “not”');
    const joined = isWord(before, ...BEGINS, 'filter') || isMark(before, '(');
    const behind = tokens[close + 1];
    const closed = behind === undefined || isMark(behind, ')') || isMark(behind, ';') || isWord(behind, ...ENDS, 'or');
    if (joined && closed) found ??= isCompared(tokens, left.at + 1, right.at - 1) ? own : undefined;
    else if (found) return none(NO_CONDITION);
    [from, to] = [left.at, close];
  }
}

const none = (because: string): Around => ({ whole: false, because });

/** The next token to the left, at the same depth, that ends an operand; its place is -1 where there is none. */
function leftOf(tokens: readonly TextToken[], from: number): { readonly at: number; readonly token: TextToken | undefined } {
  for (let at = from - 1; at >= Math.max(0, from - REACH); at--) {
    const token = tokens[at];
    if (isMark(token, ')') || isMark(token, ']')) at = openingOf(tokens, at);
    else if (isWord(token, 'end')) at = caseOf(tokens, at);
    else if (isWord(token, 'and') && isOfBetween(tokens, at)) continue;
    else if (
      isWord(
        token,
        ...BEGINS,
        'or',
        'not',
        'when',
        'then',
        'else',
        'case',
        'select',
        'by',
        'limit',
        'offset',
        'values',
        'from',
        'distinct',
        'all',
      )
    )
      if (isWord(token, 'not') && isWord(tokens[at + 1], 'in', 'like', 'ilike', 'similar', 'between')) continue;
      else if (isWord(token, 'not', 'distinct', 'from') && isDistinctFrom(tokens, at)) continue;
      else if (isWord(token, 'all') && isMark(tokens[at + 1], '(')) continue;
      else return { at, token };
    else if (isMark(token, '(') || isMark(token, '[') || isMark(token, ',') || isMark(token, ';')) return { at, token };
  }
  return { at: -1, token: undefined };
}

function rightOf(tokens: readonly TextToken[], to: number): { readonly at: number; readonly token: TextToken | undefined } {
  for (let at = to + 1; at < tokens.length; at++) {
    const token = tokens[at];
    // Not an end of anything, so nothing is found.
    if (at > to + REACH) return { at, token };
    if (isMark(token, '(') || isMark(token, '[')) at = closingOf(tokens, at);
    else if (isWord(token, 'case')) at = endOf(tokens, at);
    else if (isWord(token, 'and') && isOfBetween(tokens, at)) continue;
    else if ((isWord(token, 'left', 'right') && isMark(tokens[at + 1], '(')) || isDistinctFrom(tokens, at)) continue;
    else if (isWord(token, ...ENDS, 'or', 'then', 'when', 'else', 'end', 'as', 'from')) return { at, token };
    else if (isMark(token, ')') || isMark(token, ']') || isMark(token, ',') || isMark(token, ';')) return { at, token };
  }
  return { at: tokens.length, token: undefined };
}

/** `is distinct from`, `is not distinct from`: words that end nothing. */
function isDistinctFrom(tokens: readonly TextToken[], at: number): boolean {
  if (isWord(tokens[at], 'from')) return isWord(tokens[at - 1], 'distinct') && isWord(tokens[at - 2], 'is', 'not');
  if (isWord(tokens[at], 'distinct')) return isWord(tokens[at - 1], 'is', 'not') && isWord(tokens[at + 1], 'from');
  return isWord(tokens[at], 'not') && isWord(tokens[at - 1], 'is');
}

/** Whether an `and` belongs to a `between`: the nearest joining word to its left is one. */
function isOfBetween(tokens: readonly TextToken[], and: number): boolean {
  for (let at = and - 1; at >= 0; at--) {
    const token = tokens[at];
    if (isMark(token, ')') || isMark(token, ']')) at = openingOf(tokens, at);
    else if (isWord(token, 'end')) at = caseOf(tokens, at);
    else if (isWord(token, 'between')) return !takesRange(tokens, at);
    else if (isMark(token, '(') || isMark(token, ',') || isMark(token, ';') || isWord(token, ...BEGINS, 'or', 'when', 'select'))
      return false;
  }
  return false;
}

/** The parentheses around tokens, as a pair of places. */
function enclosing(tokens: readonly TextToken[], from: number, to: number): [number, number] | undefined {
  for (let at = from - 1; at >= Math.max(0, from - REACH); at--) {
    if (isMark(tokens[at], ')') || isMark(tokens[at], ']')) at = openingOf(tokens, at);
    else if (isMark(tokens[at], '(') || isMark(tokens[at], '[')) {
      const close = closing(tokens, to + 1);
      return close === undefined ? undefined : [at, close];
    } else if (isMark(tokens[at], ';') || isWord(tokens[at], 'select', 'values')) return undefined;
  }
  return undefined;
}

/** Where the parentheses that are open at a place are closed. */
function closing(tokens: readonly TextToken[], from: number): number | undefined {
  for (let at = from; at < tokens.length; at++) {
    if (isMark(tokens[at], '(') || isMark(tokens[at], '[')) at = closingOf(tokens, at);
    else if (isMark(tokens[at], ')') || isMark(tokens[at], ']')) return at;
  }
  return undefined;
}

function caseOf(tokens: readonly TextToken[], end: number): number {
  let depth = 0;
  for (let at = end; at >= 0; at--) {
    if (isWord(tokens[at], 'end')) depth++;
    if (isWord(tokens[at], 'case') && --depth === 0) return at;
  }
  return -1;
}

function endOf(tokens: readonly TextToken[], begin: number): number {
  let depth = 0;
  for (let at = begin; at < tokens.length; at++) {
    if (isWord(tokens[at], 'case')) depth++;
    if (isWord(tokens[at], 'end') && --depth === 0) return at;
  }
  return tokens.length;
}

const COMPARING = ['like', 'ilike', 'similar', 'in', 'between', 'is', 'any', 'all', 'some', 'overlaps', 'exists', 'not'];
const COMPUTING = ['+', '-', '*', '/', '%', '^', '||', '->', '->>', '#>', '#>>', '&', '|', '#'];

const compares = (token: TextToken | undefined) =>
  token !== undefined && (token.kind === 'operator' ? !COMPUTING.includes(token.text) : isWord(token, ...COMPARING));

/** Whether something is compared in them, rather than a parameter standing alone as a condition. */
const isCompared = (tokens: readonly TextToken[], first: number, last: number) => tokens.slice(first, last + 1).some(compares);

/**
 * Whether a `between` has a single parameter for both ends, which a window's frame never has: nothing follows, or an `and` that begins another condition,
 * which compares something up to the next joining word.
 */
export function takesRange(tokens: readonly TextToken[], between: number): boolean {
  if (tokens[between + 1]?.kind !== 'parameter') return false;
  if (!isWord(tokens[between + 2], 'and')) return !isWord(tokens[between + 2], 'preceding', 'following');
  for (let at = between + 3; at < tokens.length; at++) {
    const token = tokens[at];
    if (compares(token)) return true;
    if (isMark(token, '(') || isMark(token, '[')) {
      const close = closingOf(tokens, at);
      // A condition in parentheses; a select in them is a value.
      if (isMark(token, '(') && !isWord(tokens[at + 1], 'select') && isCompared(tokens, at + 1, close - 1)) return true;
      at = close;
    } else if (isWord(token, ...ENDS, 'or') || isMark(token, ')') || isMark(token, ',') || isMark(token, ';')) return false;
  }
  return false;
}
