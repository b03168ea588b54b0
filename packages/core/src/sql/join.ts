import type { Expression } from '../expressions';
import { fieldsUsed } from '../expressions';
import type { Relation } from './relation';
import { columnsOf } from './relation';

/** A value of the left rows that equals one of the right rows they meet. */
export interface EqualPair {
  readonly left: Expression;
  readonly right: Expression;
}

/** The equalities a join's condition demands between its sides, and what else it demands. */
export function equalPairs({ left, right, on }: Relation & { node: 'join' }): {
  readonly pairs: readonly EqualPair[];
  readonly others: readonly Expression[];
} {
  const of = (relation: Relation) => new Set(columnsOf(relation).map((each) => each.id));
  const [lefts, rights] = [of(left), of(right)];
  const only = (node: Expression, ids: ReadonlySet<string>) => {
    const used = fieldsUsed(node);
    return used.length > 0 && used.every((id) => ids.has(id));
  };
  const pairs: EqualPair[] = [];
  const others: Expression[] = [];
  for (const item of conjuncts(on)) {
    if (item.op === 'compare' && item.operator === '=' && only(item.left, lefts) && only(item.right, rights))
      pairs.push({ left: item.left, right: item.right });
    else if (item.op === 'compare' && item.operator === '=' && only(item.left, rights) && only(item.right, lefts))
      pairs.push({ left: item.right, right: item.left });
    else others.push(item);
  }
  return { pairs, others };
}

/** The conditions that all have to hold for one to hold. */
export function conjuncts(condition: Expression): readonly Expression[] {
  return condition.op === 'and' ? condition.items.flatMap(conjuncts) : [condition];
}
