import { yesno } from '../fields';
import type { Expression } from './expression';
import { nodesOf, operandsOf, parameterKeysUsed } from './expression';

/** What a blank parameter does to the condition it stands in. */
export type Blank = 'off' | 'null';

/**
 * The expression with blank parameters taken out of it. The smallest condition a blank parameter stands
 * in is switched off (it then neither keeps nor drops a row), or asks for null instead of a value.
 * Undefined when nothing is left to ask.
 */
export function applyBlanks(node: Expression, blanks: ReadonlyMap<string, Blank>): Expression | undefined {
  if (blanks.size === 0) return node;
  switch (node.op) {
    case 'and':
    case 'or': {
      const items = node.items.flatMap((item) => applyBlanks(item, blanks) ?? []);
      const [only] = items;
      return items.length <= 1 ? only : { ...node, items };
    }
    case 'not':
    case 'isTrue': {
      const of = applyBlanks(node.of, blanks);
      return of && { ...node, of };
    }
    default:
      return applyToCondition(node, blanks);
  }
}

function applyToCondition(node: Expression, blanks: ReadonlyMap<string, Blank>): Expression | undefined {
  const blank = parameterKeysUsed(node).map((key) => blanks.get(key));
  if (blank.includes('off')) return undefined;
  if (!blank.includes('null')) return node;
  const asked = operandsOf(node).filter((operand) => parameterKeysUsed(operand).length === 0);
  const [of] = asked;
  if (!of) return undefined;
  const isNull: Expression = { op: 'isNull', type: yesno, of };
  return node.op === 'compare' && node.operator === '<>' ? { op: 'not', type: yesno, of: isNull } : isNull;
}

/**
 * True where computing the expression failed: an operation has all its operands and yet no value.
 * Undefined when nothing in the expression can fail.
 */
export function failureOf(node: Expression): Expression | undefined {
  const items = nodesOf(node).flatMap((each): Expression[] => {
    if (each.op !== 'arithmetic' || !canFail(each)) return [];
    const present = operandsOf(each).map((of): Expression => ({ op: 'not', type: yesno, of: { op: 'isNull', type: yesno, of } }));
    return [{ op: 'and', type: yesno, items: [{ op: 'isNull', type: yesno, of: each }, ...present] }];
  });
  const [only] = items;
  return items.length <= 1 ? only : { op: 'or', type: yesno, items };
}

function canFail(node: Expression & { op: 'arithmetic' }): boolean {
  return node.operator === '/' || node.type.kind === 'float' || (node.type.kind === 'decimal' && node.type.precision === 38);
}
