import { isMark, isWord, saying, tokensOf } from './tokens';

/** A temp table made of a query's rows, in two steps: the table with its columns, and a statement that only fills it. */
export interface Fill {
  /** The table without rows. */
  readonly empty: string;
  readonly query: string;
  /** Where the query begins in the text, in UTF-16 units. */
  readonly from: number;
  /** The text asks for no rows. */
  readonly withoutRows: boolean;
}

/**
 * `create temp table … as <query>` in its parts: filling can then be held to reading while making the table cannot.
 * Undefined where the text has not that form.
 */
export function fillOf(text: string): Fill | undefined {
  const tokens = saying(tokensOf(text));
  let depth = 0;
  const as = tokens.findIndex((token) => {
    if (isMark(token, '(')) depth++;
    else if (isMark(token, ')')) depth--;
    return depth === 0 && isWord(token, 'as');
  });
  const [head, first] = [tokens[as], tokens[as + 1]];
  if (!head || !first) return undefined;
  const behind = tokens.slice(-3);
  const said = isWord(behind.at(-1), 'data');
  const withoutRows = said && isWord(behind[1], 'no') && isWord(behind[0], 'with');
  const withRows = said && isWord(behind[1], 'with');
  const tail = withoutRows ? behind[0] : withRows ? behind[1] : undefined;
  const query = text.slice(first.from, tail?.from ?? text.length).trimEnd();
  // On a line of its own, since the query may end in a comment.
  return { empty: `${text.slice(0, head.to)} ${query}\nwith no data`, query, from: first.from, withoutRows };
}
