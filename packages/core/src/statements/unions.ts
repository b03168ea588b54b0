import type { Span } from '../problem';
import { closingOf, openingOf } from './brackets';
import { commonTablesIn, headOf } from './part';
import type { TextStatement } from './split';
import type { TextToken } from './tokens';
import { isMark, isWord, saying } from './tokens';

/** A union of a text that takes repeated rows once. Its place is that of its words: `union`, or `union distinct`. */
export interface UnionPlace extends Span {
  /** How many rows it gives, as a statement, and how many it would give with all rows of both sides. */
  readonly once: string;
  readonly all: string;
}

/** The unions of a statement that are not `union all`, in their order. What stands before one in its query belongs to it. */
export function unionsIn(text: string, statement: TextStatement): readonly UnionPlace[] {
  const tokens = saying(statement.tokens);
  const tables = commonTablesIn(statement);
  return tokens.flatMap((token, at): readonly UnionPlace[] => {
    if (!isWord(token, 'union') || isWord(tokens[at + 1], 'all')) return [];
    const words: Span = { from: token.from, to: isWord(tokens[at + 1], 'distinct') ? (tokens[at + 1]?.to ?? token.to) : token.to };
    const before = tables.filter((each) => each.to <= token.from);
    const from = beginOf(tokens, at, before.at(-1)?.to ?? 0);
    const to = endOf(tokens, at);
    if (from === undefined) return [];
    const head = headOf(
      text,
      statement,
      tables.filter((each) => each.to <= from),
    );
    const counted = (between: string) =>
      `${head}select count(*) as rows from (\n${text.slice(from, words.from)}${between}${text.slice(words.to, to)}\n) as counted`;
    return [{ ...words, once: counted(text.slice(words.from, words.to)), all: counted('union all') }];
  });
}

/** Where the query a union stands in begins: behind its bracket, or behind the common table expressions of the statement. */
function beginOf(tokens: readonly TextToken[], at: number, tablesEnd: number): number | undefined {
  for (let index = at - 1; index >= 0; index--) {
    const token = tokens[index];
    if (isMark(token, '(') || (token && token.to <= tablesEnd)) return tokens[index + 1]?.from;
    if (isMark(token, ')') || isMark(token, ']')) index = openingOf(tokens, index);
  }
  return tokens[0]?.from;
}

/** Where the other side of a union ends: before the next one, an order or a limit, or with its query. */
function endOf(tokens: readonly TextToken[], at: number): number {
  for (let index = at + 1; index < tokens.length; index++) {
    const token = tokens[index];
    if (isMark(token, '(') || isMark(token, '[')) index = closingOf(tokens, index);
    else if (isMark(token, ')') || isMark(token, ';') || isWord(token, 'union', 'except', 'order', 'limit', 'offset', 'fetch', 'for'))
      return token?.from ?? 0;
  }
  return tokens.at(-1)?.to ?? 0;
}
