import { fieldsUsed } from '../expressions';
import type { Expression } from '../expressions';
import type { FieldId } from '../fields';
import type { Relation } from '../sql';
import { columnsOf, inputsOf } from '../sql';

/** Moves criteria toward the sources: through chosen fields and into every input of a union. */
export function pushCriteria(relation: Relation): Relation {
  if (relation.node !== 'filter') return mapInputs(relation, pushCriteria);
  const input = pushCriteria(relation.input);
  if (input.node === 'union') {
    const inputs = input.inputs.map((each) => {
      const ids = new Map(input.columns.map((column, index) => [column.id, columnsOf(each)[index]?.id ?? column.id]));
      return pushCriteria({ ...relation, input: each, condition: renamed(relation.condition, ids) });
    });
    return { ...input, inputs };
  }
  const reaches =
    input.node === 'choose' && fieldsUsed(relation.condition).every((id) => columnsOf(input.input).some((each) => each.id === id));
  if (input.node === 'choose' && reaches) return { ...input, input: pushCriteria({ ...relation, input: input.input }) };
  return { ...relation, input };
}

function mapInputs(relation: Relation, map: (relation: Relation) => Relation): Relation {
  if (relation.node === 'union') return { ...relation, inputs: relation.inputs.map(map) };
  const [input] = inputsOf(relation);
  return input && 'input' in relation ? { ...relation, input: map(input) } : relation;
}

/** The expression with field ids exchanged, structure and types untouched. */
function renamed(node: Expression, ids: ReadonlyMap<FieldId, FieldId>): Expression {
  const again = (each: Expression) => renamed(each, ids);
  switch (node.op) {
    case 'literal':
    case 'parameter':
      return node;
    case 'field':
      return { ...node, id: ids.get(node.id) ?? node.id };
    case 'arithmetic':
    case 'compare':
      return { ...node, left: again(node.left), right: again(node.right) };
    case 'and':
    case 'or':
      return { ...node, items: node.items.map(again) };
    case 'in':
      return { ...node, of: again(node.of), items: node.items.map(again) };
    case 'like':
      return { ...node, of: again(node.of), pattern: again(node.pattern) };
    case 'textMatch':
      return { ...node, of: again(node.of), part: again(node.part) };
    default:
      return { ...node, of: again(node.of) };
  }
}
