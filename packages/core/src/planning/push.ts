import { all, fieldsUsed, windowsOf, withFields } from '../expressions';
import type { Expression } from '../expressions';
import type { FieldId } from '../fields';
import type { CalculatedColumn, Relation } from '../sql';
import { columnsOf, conjuncts, inputsOf, nodesOfRelation, usesOfNodes, withInputs } from '../sql';

/**
 * Moves criteria toward the sources: through chosen and calculated fields they do not ask about, into every input of a
 * union, and to the side of a join they ask about. A node that stands in several places is left as it is, since the
 * others want its rows too.
 */
export function pushCriteria(root: Relation): Relation {
  const uses = usesOfNodes(root);
  const shared = new Set<Relation>();
  const done = new Map<Relation, Relation>();
  for (const node of [...nodesOfRelation(root)].reverse()) {
    const own = withInputs(
      node,
      inputsOf(node).map((each) => done.get(each) ?? each),
    );
    const made = own.node === 'filter' ? filtered(own.input, own.condition, own.name, shared) : own;
    if ((uses.get(node) ?? 0) > 1) shared.add(made);
    done.set(node, made);
  }
  return done.get(root) ?? root;
}

/** The rows of `input` where `condition` holds, asked as deep as it can be. */
function filtered(input: Relation, condition: Expression, name: string | undefined, shared: ReadonlySet<Relation>): Relation {
  const here = (): Relation => ({ node: 'filter', input, condition, ...(name === undefined ? {} : { name }) });
  if (shared.has(input)) return here();
  switch (input.node) {
    case 'union':
      return withInputs(
        input,
        input.inputs.map((each) => {
          const ids = new Map(input.columns.map((column, index) => [column.id, columnsOf(each)[index]?.id ?? column.id]));
          return filtered(each, withFields(condition, ids), name, shared);
        }),
      );
    case 'calculate':
      return passes(condition, input.fields) ? withInputs(input, [filtered(input.input, condition, name, shared)]) : here();
    case 'choose': {
      const reaches = fieldsUsed(condition).every((id) => columnsOf(input.input).some((each) => each.id === id));
      return reaches ? withInputs(input, [filtered(input.input, condition, name, shared)]) : here();
    }
    case 'join':
      return intoJoin(input, condition, name, shared);
    default:
      return here();
  }
}

/** Values over other rows would change if rows were taken away before them. */
function passes(condition: Expression, fields: readonly CalculatedColumn[]): boolean {
  const used = fieldsUsed(condition);
  return fields.every((each) => !used.includes(each.id) && windowsOf(each.expression).length === 0);
}

/**
 * What asks about one side only is asked there, unless that side's rows may be missing: then a row without a partner
 * has nulls to be asked about, which are not there yet.
 */
function intoJoin(
  join: Relation & { node: 'join' },
  condition: Expression,
  name: string | undefined,
  shared: ReadonlySet<Relation>,
): Relation {
  const ids = (relation: Relation) => new Set<FieldId>(columnsOf(relation).map((each) => each.id));
  const sides = {
    left: join.keeps === 'pairs' || join.keeps === 'left' ? ids(join.left) : new Set<FieldId>(),
    right: join.keeps === 'pairs' || join.keeps === 'right' ? ids(join.right) : new Set<FieldId>(),
  };
  const asks = (item: Expression, side: ReadonlySet<FieldId>) => {
    const used = fieldsUsed(item);
    return used.length > 0 && used.every((id) => side.has(id));
  };
  const items = conjuncts(condition);
  const [toLeft, toRight] = [items.filter((each) => asks(each, sides.left)), items.filter((each) => asks(each, sides.right))];
  const rest = items.filter((each) => !toLeft.includes(each) && !toRight.includes(each));
  const into = (input: Relation, own: readonly Expression[]) => {
    const [only] = own;
    return only ? filtered(input, own.length > 1 ? all(...own) : only, name, shared) : input;
  };
  const joined: Relation = { ...join, left: into(join.left, toLeft), right: into(join.right, toRight) };
  const [only] = rest;
  if (!only) return joined;
  return { node: 'filter', input: joined, condition: rest.length > 1 ? all(...rest) : only, ...(name === undefined ? {} : { name }) };
}
