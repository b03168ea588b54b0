import { parseExpression } from '@cendra/core';

export interface Named {
  readonly name: string;
}

export interface MeantName<T extends Named> {
  /** All whose names have what is typed in them: the one that is called so first, then those that begin with it. */
  readonly found: readonly T[];
  /** The one that is called so; nothing else is meant by a name. */
  readonly called?: T;
  /** What is typed, where it is an expression and no name that is only begun. */
  readonly expression?: string;
}

/**
 * What is meant by a text that is typed where a name belongs. Case and blanks around it do not count; of two names that
 * differ in case only the one that is written so is meant.
 */
export function meantName<T extends Named>(all: readonly T[], typed: string, expressions: boolean): MeantName<T> {
  const text = typed.trim();
  const sought = folded(text);
  if (sought === '') return { found: all };
  const rank = ({ name }: T) => {
    if (name === text) return 0;
    const other = folded(name);
    return other === sought ? 1 : other.startsWith(sought) ? 2 : 3;
  };
  const found = all
    .flatMap((each) => (folded(each.name).includes(sought) ? [{ each, at: rank(each) }] : []))
    .sort((a, b) => a.at - b.at)
    .map(({ each }) => each);
  const [first] = found;
  if (first && rank(first) < 2) return { found, called: first };
  return expressions && (found.length === 0 || isWhole(text)) ? { found, expression: typed } : { found };
}

/** Names of zones have no blanks, and are sought with them. */
const folded = (text: string) => text.trim().toLowerCase().replaceAll(' ', '_');

/** A text that is an expression without anything missing, and more than a name. */
function isWhole(text: string): boolean {
  const { tree, problems } = parseExpression(text);
  return problems.length === 0 && tree.node !== 'name';
}
