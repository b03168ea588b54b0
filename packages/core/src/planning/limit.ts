import { windowsOf } from '../expressions';
import type { Relation } from '../sql';
import { usesOfNodes, withInputs } from '../sql';

/**
 * The first rows of a relation, with the limit also where it saves work: below everything that gives a row for a row,
 * in each input of a union, and on the side of a join all of whose rows are kept. Rows in no order are any rows, so
 * the relation gives as many as before, and none it did not give.
 */
export function limited(relation: Relation, count: number): Relation {
  const uses = usesOfNodes(relation);
  return { node: 'limit', input: below(relation, count, uses), count };
}

function below(node: Relation, count: number, uses: ReadonlyMap<Relation, number>): Relation {
  // Others want all rows of a node that stands in several places.
  if ((uses.get(node) ?? 0) > 1) return node;
  const into = (input: Relation) => below(input, count, uses);
  switch (node.node) {
    case 'choose':
      return withInputs(node, [into(node.input)]);
    case 'calculate':
      return node.fields.some((each) => windowsOf(each.expression).length > 0) ? cut(node, count) : withInputs(node, [into(node.input)]);
    case 'union':
      return withInputs(node, node.inputs.map(into));
    case 'join':
      if (node.keeps === 'left') return { ...node, left: into(node.left) };
      return node.keeps === 'right' ? { ...node, right: into(node.right) } : node;
    case 'limit':
      return node.order ? node : { ...node, count: Math.min(node.count, count) };
    default:
      return cut(node, count);
  }
}

const cut = (input: Relation, count: number): Relation => ({ node: 'limit', input, count });
