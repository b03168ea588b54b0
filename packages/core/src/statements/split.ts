import type { Span } from '../problem';
import type { TextToken } from './tokens';
import { isMark, saying } from './tokens';

/** A statement of a text: from its first word to its last, without the semicolon behind it and comments around it. */
export interface TextStatement extends Span {
  readonly tokens: readonly TextToken[];
}

/** The statements of a text; a semicolon ends one wherever it stands, as no statement that only reads holds one. */
export function statementsIn(tokens: readonly TextToken[]): readonly TextStatement[] {
  const statements: TextStatement[] = [];
  let begin = 0;
  const take = (end: number) => {
    const own = tokens.slice(begin, end);
    const said = saying(own);
    const [first, last] = [said[0], said.at(-1)];
    if (first && last)
      statements.push({ from: first.from, to: last.to, tokens: own.filter((each) => each.from >= first.from && each.to <= last.to) });
    begin = end + 1;
  };
  tokens.forEach((token, index) => {
    if (isMark(token, ';')) take(index);
  });
  take(tokens.length);
  return statements;
}
