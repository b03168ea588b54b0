import type { Span } from '../problem';
import type { Expression } from './expression';
import type { Tree } from './tree';
import { childrenOf } from './tree';

/** A part of the text that has a value of its own, with the parts inside it. Positions are UTF-16 offsets. */
export interface Part extends Span {
  readonly expression: Expression;
  readonly node: Tree['node'];
  /** Of a case: whether an else is written. */
  readonly hasElse: boolean;
  readonly parts: readonly Part[];
}

/** The checked parts of a tree, nested as the text is; what has no value of its own gives way to what is inside it. */
export function partOf(tree: Tree, nodes: ReadonlyMap<Tree, Expression>, expression: Expression): Part {
  const parts: Part[] = [];
  const collect = (of: Tree): void => {
    for (const child of childrenOf(of)) {
      const node = nodes.get(child);
      if (node) parts.push(partOf(child, nodes, node));
      else collect(child);
    }
  };
  collect(tree);
  const hasElse = tree.node === 'case' && tree.otherwise !== undefined;
  return { from: tree.from, to: tree.to, expression, node: tree.node, hasElse, parts };
}
