import type { FieldType } from '../fields';
import type { SyntaxTree, TreeNode } from '../statements';
import { stringOf } from './literals';
import type { Meaning } from './meaning';
import { typeOf } from './meaning';
import type { Said } from './said';
import { one } from './said';
import { unsaid } from './unsaid';

export type Members = TreeNode['of'];

/**
 * A value expression of a text in the language of expressions, with the same meaning. `beside` is the type it is compared
 * with, which a constant in quotes takes on. Throws Unsaid where there is no counterpart.
 */
export const say = (tree: SyntaxTree | undefined, meaning: Meaning, beside?: FieldType): Said => meaning.say(tree, meaning, beside);

/** Several, each beside the first that has a type of its own. */
export function sayAll(trees: readonly SyntaxTree[], meaning: Meaning, beside?: FieldType): readonly Said[] {
  const told = beside ?? typeAmong(trees, meaning);
  return trees.map((each) => say(each, meaning, told));
}

/** The type of the first of some expressions that is no constant in quotes. */
export function typeAmong(trees: readonly SyntaxTree[], meaning: Meaning): FieldType | undefined {
  for (const tree of trees) {
    if (stringOf(tree) !== undefined) continue;
    const type = typeOf(say(tree, meaning), meaning);
    if (type) return type;
  }
  return undefined;
}

/** A value as its source writes it where a text is wanted. */
export function asText(value: Said, meaning: Meaning, location: SyntaxTree | undefined): Said {
  const type = typeOf(value, meaning);
  if (!type || type.kind === 'text') return value;
  if (type.kind === 'float' || type.kind === 'instant' || type.kind === 'json' || type.kind === 'yesno')
    unsaid('Its source writes such a value as a text in its own way.', location);
  return one(`cast(${value.text} as text)`);
}
