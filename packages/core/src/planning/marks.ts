import type { Expression } from '../expressions';
import { isNull, nodesOf, not, operandsOf, withOperands } from '../expressions';
import type { FieldId } from '../fields';
import { text } from '../fields';
import type { CalculatedColumn, Column, Relation } from '../sql';
import { columnsOf, expressionsOf, inputsOf, nodesOfRelation, withInputs } from '../sql';

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

/** The relation in whose conditions a landed field with marks is known to hold what fits no type; its columns stay what they are. */
export function withMisfits(root: Relation, marked: ReadonlyMap<string, readonly FieldId[]>): Relation {
  if ([...marked.values()].every((each) => each.length === 0)) return root;
  const asked = nodesOfRelation(root).some((node) => expressionsOf(node).some((each) => nodesOf(each).some(({ op }) => op === 'misfit')));
  if (!asked) return root;
  const { relation } = withMarks(root, marked);
  return columnsOf(relation).length === columnsOf(root).length ? relation : { node: 'choose', input: relation, columns: columnsOf(root) };
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
    case 'filter':
      return { ...own, condition: byMarks(own.condition, input) };
    case 'group':
      return { ...own, counts: own.counts.map((each) => (each.when ? { ...each, when: byMarks(each.when, input) } : each)) };
    case 'calculate': {
      const made = own.fields.map((each) => ({ ...each, expression: byMarks(each.expression, input) }));
      const copied = own.fields.flatMap(({ id, expression }): readonly CalculatedColumn[] =>
        expression.op === 'field' && hasMark(input, expression.id) ? [{ ...markBeside(id), expression: markOf(expression.id) }] : [],
      );
      const fields = [...made, ...copied];
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

/** The expression with the marks of its input in the place of whether a field holds what fits no type. */
function byMarks(root: Expression, input: Relation): Expression {
  const done = new Map<Expression, Expression>();
  for (const node of nodesOf(root)) {
    const told = node.op === 'misfit' && hasMark(input, node.of.id);
    const operands = operandsOf(node).map((each) => done.get(each) ?? each);
    const same = operandsOf(node).every((each, at) => each === operands[at]);
    done.set(node, told ? not(isNull(markOf(node.of.id))) : same ? node : withOperands(node, operands));
  }
  return done.get(root) ?? root;
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
