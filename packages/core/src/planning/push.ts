import { fieldsUsed, operandsOf, windowsOf, withOperands } from '../expressions';
import type { Expression } from '../expressions';
import type { FieldId } from '../fields';
import type { CalculatedColumn, Relation } from '../sql';
import { columnsOf, inputsOf } from '../sql';

/** Moves criteria toward the sources: through chosen and calculated fields they do not ask about, and into every input of a union. */
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
  if (input.node === 'calculate' && passes(relation.condition, input.fields))
    return { ...input, input: pushCriteria({ ...relation, input: input.input }) };
  const reaches =
    input.node === 'choose' && fieldsUsed(relation.condition).every((id) => columnsOf(input.input).some((each) => each.id === id));
  if (input.node === 'choose' && reaches) return { ...input, input: pushCriteria({ ...relation, input: input.input }) };
  return { ...relation, input };
}

/** Values over other rows would change if rows were taken away before them. */
function passes(condition: Expression, fields: readonly CalculatedColumn[]): boolean {
  const used = fieldsUsed(condition);
  return fields.every((each) => !used.includes(each.id) && windowsOf(each.expression).length === 0);
}

function mapInputs(relation: Relation, map: (relation: Relation) => Relation): Relation {
  if (relation.node === 'union') return { ...relation, inputs: relation.inputs.map(map) };
  const [input] = inputsOf(relation);
  return input && 'input' in relation ? { ...relation, input: map(input) } : relation;
}

/** The expression with field ids exchanged, structure and types untouched. */
function renamed(node: Expression, ids: ReadonlyMap<FieldId, FieldId>): Expression {
  if (node.op === 'field') return { ...node, id: ids.get(node.id) ?? node.id };
  return withOperands(
    node,
    operandsOf(node).map((each) => renamed(each, ids)),
  );
}
