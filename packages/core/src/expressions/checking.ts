import type { FieldType } from '../fields';
import { typeWord, withArticle } from '../fields';
import type { Span } from '../problem';
import type { Expression, Reference } from './expression';
import { closed, isNullLiteral, widen } from './build';
import { commonType } from './rules';
import type { Scope } from './scope';
import type { Tree } from './tree';

/** What the checks of the parts of an expression share: the scope, the way down, and the way to say what is wrong. */
export interface Checking {
  readonly scope: Scope;
  /** What the span of a name was linked to, if anything. */
  linkedTo(kind: Reference['kind'], at: Span): string | undefined;
  /** The typed node of a tree, or undefined when something in it is wrong, which is noted. */
  check(tree: Tree): Expression | undefined;
  fail(code: string, message: string, at: Span, expected?: string, instead?: string): undefined;
}

export const article = (type: FieldType): string => withArticle(typeWord(type));

const EXPECTED: Partial<Record<FieldType['kind'], string>> = {
  whole: 'a number, such as 5',
  decimal: 'a number, such as 5',
  float: 'a number, such as 5',
  date: "a date, such as date '2025-04-30'",
  text: 'a text in single quotes',
  datetime: "a date-time, such as timestamp '2025-04-30 14:30'",
};

/** Both sides in the type they are compared in. */
export function unify(checking: Checking, left: Expression, right: Expression, at: Span): readonly [Expression, Expression] | undefined {
  if (isNullLiteral(left)) return [widen(left, right.type), right];
  if (isNullLiteral(right)) return [left, widen(right, left.type)];
  const common = commonType(left.type, right.type);
  if (!common) return mixed(checking, left.type, right.type, at);
  // Numbers of exact types compare exactly as they are; only floating numbers and dates need converting.
  if (common.kind === 'decimal') return [left, right];
  return [widen(left, common), widen(right, common)];
}

export function mixed(checking: Checking, left: FieldType, right: FieldType, at: Span): undefined {
  return checking.fail(
    'type-mixed',
    `${article(left).replace(/^a/, 'A')} cannot be compared with ${article(right)}.`,
    at,
    EXPECTED[left.kind] ?? article(left),
  );
}

/** Values that can stand for one another, all in the one type they have in common. */
export function alike(
  checking: Checking,
  items: readonly { readonly node: Expression; readonly tree: Span }[],
): readonly Expression[] | undefined {
  let common: FieldType | undefined;
  for (const { node, tree } of items) {
    if (isNullLiteral(node)) continue;
    const next = common ? commonType(common, node.type) : node.type;
    if (!next && common) {
      const message = `This is ${article(node.type)}, and what it could stand for is ${article(common)}.`;
      return checking.fail('type-mixed', message, tree, EXPECTED[common.kind] ?? article(common));
    }
    common = next;
  }
  const type = common ?? { kind: 'text' };
  return items.map(({ node }) => widen(type.kind === 'float' ? closed(node) : node, type));
}
