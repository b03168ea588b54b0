import { conjunction, fieldsUsed, windowsOf, withFields } from '../expressions';
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
    case 'calculate': {
      const below = belowNames(condition, input.fields);
      return below ? withInputs(input, [filtered(input.input, below, name, shared)]) : here();
    }
    case 'group': {
      const below = input.levels === undefined ? belowKeys(condition, input.keys) : undefined;
      return below ? withInputs(input, [filtered(input.input, below, name, shared)]) : here();
    }
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

/**
 * The condition as it is asked below calculated fields: of those it asks about, each has to be a field under another
 * name. Undefined where it cannot be; values over other rows would change if rows were taken away before them.
 */
function belowNames(condition: Expression, fields: readonly CalculatedColumn[]): Expression | undefined {
  if (fields.some((each) => windowsOf(each.expression).length > 0)) return undefined;
  return renamed(
    condition,
    fields.filter((each) => fieldsUsed(condition).includes(each.id)),
  );
}

/** The condition as it is asked of the rows of groups: of keys alone, for a group is there or not with all its rows. */
function belowKeys(condition: Expression, keys: readonly CalculatedColumn[]): Expression | undefined {
  const used = fieldsUsed(condition);
  const asked = keys.filter((each) => used.includes(each.id));
  return used.length > 0 && asked.length === used.length ? renamed(condition, asked) : undefined;
}

function renamed(condition: Expression, columns: readonly CalculatedColumn[]): Expression | undefined {
  const ids = columns.flatMap(({ id, expression }) => (expression.op === 'field' ? [[id, expression.id] as const] : []));
  return ids.length === columns.length ? withFields(condition, new Map(ids)) : undefined;
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
    return own.length > 0 ? filtered(input, conjunction(own), name, shared) : input;
  };
  const joined: Relation = { ...join, left: into(join.left, toLeft), right: into(join.right, toRight) };
  if (rest.length === 0) return joined;
  return { node: 'filter', input: joined, condition: conjunction(rest), ...(name === undefined ? {} : { name }) };
}
