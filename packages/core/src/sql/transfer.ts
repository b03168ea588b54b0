import { fieldsUsed } from '../expressions';
import type { Relation } from './relation';
import { expressionsOf, inputsOf, nodesOfRelation, usesOfNodes, withInputs } from './relation';

/**
 * The same relation, for rows that are carried away: a table's columns that no expression asks about are marked as
 * such, so that a source whose own text is cheaper than our reading of it gives that. Who lands rows reads texts, and
 * comes to the same values.
 */
export function forTransfer(root: Relation): Relation {
  const uses = usesOfNodes(root);
  const asked = new Set(nodesOfRelation(root).flatMap((each) => expressionsOf(each).flatMap(fieldsUsed)));
  const marked = (node: Relation): Relation => {
    // Rows that are stacked or grouped are compared by their values; a node that stands in several places is written once.
    if (node.node === 'union' || node.node === 'group' || (uses.get(node) ?? 0) > 1) return node;
    if (node.node !== 'table' && node.node !== 'text') return withInputs(node, inputsOf(node).map(marked));
    return { ...node, columns: node.columns.map((each) => (asked.has(each.id) ? each : { ...each, carried: true })) };
  };
  return marked(root);
}
