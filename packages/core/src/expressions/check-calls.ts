import { operandsFor } from './check-operands';
import { isWindowFunction, WINDOWS } from './check-windows';
import type { Checking } from './checking';
import type { Expression } from './expression';
import { functionByName, FUNCTIONS } from './functions';
import { OTHER_WORDS } from './functions/other-words';
import { nearestName } from './nearest';
import type { CallTree } from './tree';

/** A call of a function with the operands it takes. One that is none is told with what is written instead. */
export function checkCall(checking: Checking, tree: CallTree): Expression | undefined {
  const spec = functionByName(tree.name);
  if (!spec && isWindowFunction(tree.name)) {
    const signature = WINDOWS.find((each) => each.name === tree.name)?.signature ?? '';
    return checking.fail('over-missing', `${tree.name} is computed over other rows, and here it does not say which.`, tree, signature);
  }
  if (!spec) {
    const other = OTHER_WORDS.get(tree.name.toLowerCase());
    if (other) return checking.fail('function-unknown', `There is no function ${tree.name} here.`, tree.nameAt, other.write, other.instead);
    const near = nearestName(
      tree.name,
      [...FUNCTIONS, ...WINDOWS].map((each) => each.name),
    );
    return checking.fail(
      'function-unknown',
      `There is no function ${tree.name}.`,
      tree.nameAt,
      near ? `did you mean ${near}?` : 'a function of the language',
      near,
    );
  }
  if (tree.star || tree.args.length < spec.least || tree.args.length > spec.most) {
    const count = tree.star ? 'a star' : `${tree.args.length} operand${tree.args.length === 1 ? '' : 's'}`;
    return checking.fail('operand-count', `${tree.name} has ${count} here.`, tree, spec.signature);
  }
  return spec.build(operandsFor(checking, tree, spec));
}
