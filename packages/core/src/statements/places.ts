import type { Span } from '../problem';
import type { Around } from './condition-around';
import { conditionAround, takesRange } from './condition-around';
import type { TextToken } from './tokens';
import { isMark, isWord, saying, tokensOf } from './tokens';

/** How a parameter stands in a text, which says how many values belong there. */
export type Stands =
  /** As one value. */
  | 'one'
  /** `in (:name)`, `= any(:name)`. */
  | 'several'
  /** `between :name`. */
  | 'range'
  /** `:name is null`, `coalesce(:name, …)`: the text says itself what a blank one means. */
  | 'asked whether blank';

/** `:name` somewhere in a text. */
export interface ParameterPlace extends Span {
  readonly name: string;
  readonly stands: Stands;
  /** What is written anew when values come: `between :name` and `in (:name)` as a whole. */
  readonly written: Span;
  /** Its operator is negated: `not in`, `not between`. */
  readonly negated: boolean;
  /** It stands where a cast has to be in parentheses: `fetch first :name rows`. */
  readonly enclosed: boolean;
  /** Nothing around it says of which type it is: `:name is null`. */
  readonly untold: boolean;
  /** The condition that can be taken away when the parameter is blank, or why none can. */
  readonly condition: Around;
}

/** A text names parameters in so many places at most. */
export const MOST_PLACES = 500;

/** The parameters of a text in the order they stand, each place by itself. */
export function parametersIn(text: string): readonly ParameterPlace[] {
  return placesIn(tokensOf(text));
}

export function placesIn(all: readonly TextToken[]): readonly ParameterPlace[] {
  const tokens = saying(all);
  const found = tokens.flatMap((token, index) => (token.kind === 'parameter' ? [{ token, index }] : []));
  return found.slice(0, MOST_PLACES).map(({ token, index }) => placeAt(tokens, index, token));
}

function placeAt(tokens: readonly TextToken[], index: number, token: TextToken): ParameterPlace {
  const { from, to } = token;
  const { stands, first, last, negated, untold = false } = standing(tokens, index);
  const written = { from: tokens[first]?.from ?? from, to: tokens[last]?.to ?? to };
  const enclosed = isWord(tokens[index - 1], 'first', 'next') && isWord(tokens[index - 2], 'fetch');
  const condition = conditionAround(tokens, first, last);
  return { name: token.text.slice(1), from, to, stands, written, negated, enclosed, untold, condition };
}

interface Standing {
  readonly stands: Stands;
  readonly first: number;
  readonly last: number;
  readonly negated: boolean;
  readonly untold?: boolean;
}

function standing(tokens: readonly TextToken[], at: number): Standing {
  const alone = isMark(tokens[at - 1], '(') && isMark(tokens[at + 1], ')');
  if (alone && isWord(tokens[at - 2], 'in')) {
    const negated = isWord(tokens[at - 3], 'not');
    return { stands: 'several', first: negated ? at - 3 : at - 2, last: at + 1, negated };
  }
  if (alone && isWord(tokens[at - 2], 'any', 'all', 'some')) return { stands: 'several', first: at, last: at, negated: false };
  if (isWord(tokens[at - 1], 'between') && takesRange(tokens, at - 1)) {
    const negated = isWord(tokens[at - 2], 'not');
    return { stands: 'range', first: negated ? at - 2 : at - 1, last: at, negated };
  }
  const blankAsked = isWord(tokens[at + 1], 'is') && (isWord(tokens[at + 2], 'null') || isWord(tokens[at + 3], 'null'));
  const replaced = isMark(tokens[at - 1], '(') && isWord(tokens[at - 2], 'coalesce') && isMark(tokens[at + 1], ',');
  return { stands: blankAsked || replaced ? 'asked whether blank' : 'one', first: at, last: at, negated: false, untold: blankAsked };
}
