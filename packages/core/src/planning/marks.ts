import type { Expression } from '../expressions';
import type { FieldId } from '../fields';
import { text } from '../fields';
import type { CalculatedColumn, Column, Relation } from '../sql';
import { columnsOf, inputsOf, nodesOfRelation, withInputs } from '../sql';

/** The column beside a field's that holds the source's own text of values that fit no type. */
export const markBeside = (id: FieldId): Column => ({ id: `${id} mark`, name: `${id} mark`, type: text });

/** A relation whose rows carry marks along, and the fields that have any. */
export interface Marked {
  readonly relation: Relation;
  readonly fields: readonly FieldId[];
}

/**
 * The relation with a mark beside every field that comes as it is from a landed one with marks: what is null there
 * because it fits no type can still be shown. `marked` names such fields by landed handle. What is calculated,
 * grouped or totalled has no marks of its own.
 */
export function withMarks(root: Relation, marked: ReadonlyMap<string, readonly FieldId[]>): Marked {
  const done = new Map<Relation, Relation>();
  for (const node of [...nodesOfRelation(root)].reverse()) {
    const inputs = inputsOf(node).map((each) => done.get(each) ?? each);
    done.set(node, marking(node, inputs, marked));
  }
  const relation = done.get(root) ?? root;
  const fields = columnsOf(root).flatMap(({ id }) => (hasMark(relation, id) ? [id] : []));
  return { relation, fields };
}

const hasMark = (relation: Relation, id: FieldId) => columnsOf(relation).some((each) => each.id === markBeside(id).id);

function marking(node: Relation, inputs: readonly Relation[], marked: ReadonlyMap<string, readonly FieldId[]>): Relation {
  const own = withInputs(node, inputs);
  const [input = own] = inputs;
  switch (own.node) {
    case 'landed': {
      const some = (marked.get(own.handle) ?? []).filter((id) => own.columns.some((each) => each.id === id));
      return some.length === 0 ? own : { ...own, columns: [...own.columns, ...some.map(markBeside)] };
    }
    case 'choose':
      return { ...own, columns: [...own.columns, ...own.columns.flatMap(({ id }) => (hasMark(input, id) ? [markBeside(id)] : []))] };
    case 'calculate': {
      const copied = own.fields.flatMap(({ id, expression }): readonly CalculatedColumn[] =>
        expression.op === 'field' && hasMark(input, expression.id) ? [{ ...markBeside(id), expression: markOf(expression.id) }] : [],
      );
      const fields = [...own.fields, ...copied];
      if (!own.kept) return { ...own, fields };
      const marks = own.kept.flatMap((id) => (hasMark(input, id) ? [markBeside(id).id] : []));
      return { ...own, fields, kept: [...own.kept, ...marks] };
    }
    case 'union':
      return markedUnion(own, node, inputs);
    default:
      return own;
  }
}

const markOf = (id: FieldId): Expression => ({ op: 'field', type: text, id: markBeside(id).id });
const NO_MARK: Expression = { op: 'literal', type: text, value: null };

/** Inputs are lined up by position, so each gives a mark, or null, for every column that has one in some input. */
function markedUnion(union: Relation & { node: 'union' }, before: Relation, inputs: readonly Relation[]): Relation {
  const given = inputsOf(before).map(columnsOf);
  const at = union.columns.flatMap((_column, index) =>
    inputs.some((input, slot) => hasMark(input, given[slot]?.[index]?.id ?? '')) ? [index] : [],
  );
  if (at.length === 0) return union;
  const widened = inputs.map((input, slot): Relation => {
    const columns = given[slot] ?? [];
    const marks = at.map((index): CalculatedColumn => {
      const id = columns[index]?.id ?? '';
      return { ...markBeside(`${index}`), expression: hasMark(input, id) ? markOf(id) : NO_MARK };
    });
    return { node: 'calculate', input, kept: columns.map((each) => each.id), fields: marks };
  });
  const marks = at.flatMap((index) => (union.columns[index] ? [markBeside(union.columns[index].id)] : []));
  return { ...union, columns: [...union.columns, ...marks], inputs: widened };
}
