import type { Expression, OrderBy } from '../expressions';
import { fieldsUsed } from '../expressions';
import type { FieldId, FieldType } from '../fields';
import { whole } from '../fields';
import type { PlacedPart, TextPart } from '../statements';

/** Where something runs: a source, one session inside a source, or the combine engine on the server. */
export type Site =
  | { readonly kind: 'source'; readonly source: string }
  | { readonly kind: 'session'; readonly source: string; readonly session: string }
  | { readonly kind: 'combine' };

export interface Column {
  readonly id: FieldId;
  readonly name: string;
  readonly type: FieldType;
}

/** A column of a source's table, read as a field. `sourceType` is the source's own name of its type. */
export interface TableColumn extends Column {
  readonly column: string;
  readonly sourceType: string;
  /** Its collation calls different texts equal; it is then compared in a binary one. */
  readonly looseText: boolean;
  /** No expression asks about it: it only leaves the source, as text. */
  readonly carried?: boolean;
}

/** A column of a statement's rows: under the name it is given, what the source calls it, and of which of its types. */
export interface GivenColumn {
  readonly name: string;
  readonly column: string;
  readonly sourceType: string;
}

/** One statement of a script. Its parts have their places in the script's text, where it stands from `from` to `to`. */
export interface ScriptPart {
  /** Counted from 1. */
  readonly number: number;
  readonly from: number;
  readonly to: number;
  readonly parts: readonly PlacedPart[];
  /** The script it stands in, where that is another one, which runs before in the same session. */
  readonly of?: string;
  /** It is no statement of the analyst's but a call, made in their name. */
  readonly call?: SessionCall;
}

/** What is read of a call: its rows, the one row of values it gives back, or the rows of a cursor, counted from 1. */
export type CallResult =
  { readonly of: 'rows' } | { readonly of: 'values' } | { readonly of: 'cursor'; readonly number: number; readonly name: string };

/** A call in a session, what it gives kept as a temp table there, whose columns are `c1`, `c2` … */
export interface SessionCall {
  readonly signature: string;
  readonly result: CallResult;
  readonly into: string;
  /** The columns it gave when it was described. */
  readonly given: readonly GivenColumn[];
}

/**
 * What a step stands for, independent of any engine. `name` is the step's name and becomes the name
 * of its common table expression. Every node's columns are known without running anything.
 */
export type Relation = { readonly name?: string } & (
  | {
      readonly node: 'table';
      readonly site: Site;
      readonly schema: string;
      readonly table: string;
      readonly columns: readonly TableColumn[];
    }
  /** Rows of an analyst's own statement, as its source understands it. */
  | {
      readonly node: 'text';
      readonly site: Site;
      /** The step it is the text of. */
      readonly step: string;
      /** Statements of its session that run before it, once in a run. */
      readonly before?: readonly ScriptPart[];
      /** Of a script: the statement that gives the rows, which runs as one more where another script goes on behind it. */
      readonly last?: ScriptPart;
      readonly parts: readonly TextPart[];
      /** All columns it gives, in their order: what the source has to say of it again before it runs. */
      readonly given: readonly GivenColumn[];
      /** Those that are read; `column` is the name given to one. */
      readonly columns: readonly TableColumn[];
    }
  /** The whole numbers from 1 on, so many of them. They are everywhere, so it runs where what it meets does. */
  | { readonly node: 'numbers'; readonly count: number; readonly column: Column }
  /** Rows that were brought to the combine engine, under a handle of the run. */
  | { readonly node: 'landed'; readonly handle: string; readonly columns: readonly Column[] }
  | { readonly node: 'filter'; readonly input: Relation; readonly condition: Expression }
  | { readonly node: 'choose'; readonly input: Relation; readonly columns: readonly Column[] }
  /** The input's columns (those in `kept`, where it is said) and computed ones behind them. */
  | {
      readonly node: 'calculate';
      readonly input: Relation;
      readonly kept?: readonly FieldId[];
      readonly fields: readonly CalculatedColumn[];
    }
  /**
   * Rows of two inputs side by side where the condition holds; its columns are those of both, whose ids differ. Rows of
   * the left, the right or both inputs that meet no other are kept with nulls where `keeps` says so.
   */
  | {
      readonly node: 'join';
      readonly left: Relation;
      readonly right: Relation;
      readonly on: Expression;
      readonly keeps: 'pairs' | 'left' | 'right' | 'both';
    }
  /** Rows of all inputs on top of one another; columns by position, named, identified and typed by `columns`. */
  | { readonly node: 'union'; readonly inputs: readonly Relation[]; readonly columns: readonly Column[] }
  /** All rows in an order. */
  | { readonly node: 'sort'; readonly input: Relation; readonly order: readonly OrderBy[] }
  /** The first rows, by an order or as they come. */
  | { readonly node: 'limit'; readonly input: Relation; readonly count: number; readonly order?: readonly OrderBy[] }
  /** Per combination of keys, and without keys once, in how many rows each condition holds; without a condition, how many rows there are. */
  | {
      readonly node: 'group';
      readonly input: Relation;
      readonly keys: readonly GroupKey[];
      readonly counts: readonly CountColumn[];
      readonly measures?: readonly MeasureColumn[];
      /** Also per combination of fewer keys, from the last one on, down to all rows; how many keys a group has stands in this column, those besides another not counted. */
      readonly levels?: FieldId;
    }
);

export interface GroupKey extends CalculatedColumn {
  /** It is never without the key before it: the two are one level. */
  readonly besides?: true;
}

/** One value made of many. Sums and counts leave nulls out; of nothing but nulls it is null, or 0 counted. */
export interface MeasureColumn extends Column {
  readonly aggregate: 'sum' | 'least' | 'greatest' | 'count' | 'distinct count' | 'joined';
  readonly of: Expression;
  /** What joined texts stand in the order of, and what stands between them. */
  readonly order?: readonly OrderBy[];
  readonly separator?: string;
  /** Among the rows where this holds. */
  readonly when?: Expression;
}

export interface CountColumn {
  readonly id: FieldId;
  readonly when?: Expression;
}

export interface CalculatedColumn extends Column {
  readonly expression: Expression;
}

/** A column made of an expression, under its id as name too. */
export const calculatedColumn = (id: FieldId, expression: Expression): CalculatedColumn => ({
  id,
  name: id,
  type: expression.type,
  expression,
});

/** A column, read as a value. */
export const valueOf = ({ id, type }: Pick<Column, 'id' | 'type'>): Expression => ({ op: 'field', type, id });

/** What is told of a relation, worked out once for each node, in however many places it stands. */
export function toldOnce<T extends object>(tell: (relation: Relation) => T): (relation: Relation) => T {
  const known = new WeakMap<Relation, T>();
  return (relation) => {
    const told = known.get(relation) ?? tell(relation);
    known.set(relation, told);
    return told;
  };
}

/** The columns of a relation, in their order. */
export const columnsOf = toldOnce(columnsOfNode);

function columnsOfNode(relation: Relation): readonly Column[] {
  switch (relation.node) {
    case 'table':
    case 'text':
    case 'landed':
    case 'choose':
    case 'union':
      return relation.columns;
    case 'numbers':
      return [relation.column];
    case 'filter':
    case 'limit':
    case 'sort':
      return columnsOf(relation.input);
    case 'join':
      return [...columnsOf(relation.left), ...columnsOf(relation.right)];
    case 'calculate':
      return [...keptOf(relation), ...relation.fields.map(({ id, name, type }) => ({ id, name, type }))];
    case 'group':
      return [
        ...relation.keys.map(({ id, name, type }) => ({ id, name, type })),
        ...relation.counts.map(({ id }) => ({ id, name: id, type: whole })),
        ...(relation.measures ?? []).map(({ id, name, type }) => ({ id, name, type })),
        ...(relation.levels === undefined ? [] : [{ id: relation.levels, name: relation.levels, type: whole }]),
      ];
  }
}

/** The columns of its input a calculation hands on. */
export function keptOf({ input, kept }: Relation & { node: 'calculate' }): readonly Column[] {
  const columns = columnsOf(input);
  return kept ? columns.filter((each) => kept.includes(each.id)) : columns;
}

export function inputsOf(relation: Relation): readonly Relation[] {
  switch (relation.node) {
    case 'table':
    case 'text':
    case 'landed':
    case 'numbers':
      return [];
    case 'union':
      return relation.inputs;
    case 'join':
      return [relation.left, relation.right];
    default:
      return [relation.input];
  }
}

/** Whether it stands on no rows of any place. */
export const isPlaceless = (relation: Relation): boolean =>
  nodesOfRelation(relation).every(({ node }) => node !== 'table' && node !== 'text' && node !== 'landed');

/** The relation over other inputs, given in the order of `inputsOf`; itself where they are the same. */
export function withInputs(relation: Relation, inputs: readonly Relation[]): Relation {
  if (inputsOf(relation).every((each, at) => each === inputs[at])) return relation;
  switch (relation.node) {
    case 'table':
    case 'text':
    case 'landed':
    case 'numbers':
      return relation;
    case 'union':
      return { ...relation, inputs };
    case 'join': {
      const [left = relation.left, right = relation.right] = inputs;
      return { ...relation, left, right };
    }
    default: {
      const [input = relation.input] = inputs;
      return { ...relation, input };
    }
  }
}

/** Every node of a relation once, each before its inputs. */
export function nodesOfRelation(root: Relation): readonly Relation[] {
  const behind: Relation[] = [];
  const seen = new Set<Relation>();
  const visit = (node: Relation): void => {
    if (seen.has(node)) return;
    seen.add(node);
    inputsOf(node).forEach(visit);
    behind.push(node);
  };
  visit(root);
  return behind.reverse();
}

/** In how many places each node of a relation stands; the root in none. */
export function usesOfNodes(root: Relation): ReadonlyMap<Relation, number> {
  const uses = new Map<Relation, number>();
  for (const node of nodesOfRelation(root)) for (const input of inputsOf(node)) uses.set(input, (uses.get(input) ?? 0) + 1);
  return uses;
}

/** The relation with each node made anew once, inputs first. */
export function rebuilt(root: Relation, make: (node: Relation) => Relation): Relation {
  const done = new Map<Relation, Relation>();
  for (const node of [...nodesOfRelation(root)].reverse()) {
    const inputs = inputsOf(node).map((each) => done.get(each) ?? each);
    done.set(node, make(withInputs(node, inputs)));
  }
  return done.get(root) ?? root;
}

/** The expressions a node itself computes, not those of its inputs. */
export function expressionsOf(relation: Relation): readonly Expression[] {
  if (relation.node === 'filter') return [relation.condition];
  if (relation.node === 'join') return [relation.on];
  if (relation.node === 'calculate') return relation.fields.map((each) => each.expression);
  if (relation.node === 'limit' || relation.node === 'sort') return (relation.order ?? []).map((each) => each.of);
  if (relation.node === 'group')
    return [
      ...relation.keys.map((each) => each.expression),
      ...relation.counts.flatMap((each) => each.when ?? []),
      ...(relation.measures ?? []).flatMap(({ of, when, order = [] }) => [of, ...(when ? [when] : []), ...order.map((each) => each.of)]),
    ];
  return [];
}

/**
 * The same relation reading only what is needed for `wanted` and for its own conditions. What several places want of
 * one node is read there once. Where no column is wanted only the number of rows counts, and none is read.
 */
export function prune(root: Relation, wanted: ReadonlySet<FieldId>): Relation {
  const needs = new Map<Relation, Set<FieldId>>([[root, new Set(wanted)]]);
  const nodes = nodesOfRelation(root);
  for (const node of nodes) {
    const own = needs.get(node) ?? new Set();
    inputsOf(node).forEach((input, at) => {
      const known = needs.get(input) ?? new Set();
      for (const id of neededOf(node, input, at, own)) known.add(id);
      needs.set(input, known);
    });
  }
  const done = new Map<Relation, Relation>();
  for (const node of [...nodes].reverse()) {
    const inputs = inputsOf(node).map((each) => done.get(each) ?? each);
    const own = needs.get(node) ?? new Set();
    done.set(node, node.node === 'union' ? prunedUnion(node, inputs, own) : pruned(withInputs(node, inputs), own));
  }
  return done.get(root) ?? root;
}

/** The columns of an input a node needs, for those that are wanted of itself. */
function neededOf(node: Relation, input: Relation, at: number, wanted: ReadonlySet<FieldId>): readonly FieldId[] {
  switch (node.node) {
    case 'union':
      return node.columns.flatMap((column, index) => (wanted.has(column.id) ? (columnsOf(input)[index]?.id ?? []) : []));
    case 'group':
      return expressionsOf(node).flatMap(fieldsUsed);
    case 'calculate':
      return [...wanted, ...node.fields.filter((each) => wanted.has(each.id)).flatMap((each) => fieldsUsed(each.expression))];
    case 'join': {
      const own = new Set(columnsOf(at === 0 ? node.left : node.right).map((each) => each.id));
      return [...wanted, ...fieldsUsed(node.on)].filter((id) => own.has(id));
    }
    default:
      return [...wanted, ...expressionsOf(node).flatMap(fieldsUsed)];
  }
}

/** The node, whose inputs are pruned already, with the wanted columns only. */
function pruned(node: Relation, wanted: ReadonlySet<FieldId>): Relation {
  const some = <T extends Column>(columns: readonly T[]) => columns.filter((each) => wanted.has(each.id));
  switch (node.node) {
    case 'table':
      return { ...node, columns: some(node.columns) };
    case 'text':
      return { ...node, columns: some(node.columns) };
    case 'landed':
      return { ...node, columns: some(node.columns) };
    case 'choose':
      return { ...node, columns: some(node.columns) };
    case 'calculate': {
      const kept = columnsOf(node.input).flatMap(({ id }) => (wanted.has(id) ? [id] : []));
      return { ...node, fields: node.fields.filter((each) => wanted.has(each.id)), kept };
    }
    default:
      return node;
  }
}

/** Lined up by position: each input gives just the wanted columns, in their order, whatever else it has to read. */
function prunedUnion(node: Relation & { node: 'union' }, inputs: readonly Relation[], wanted: ReadonlySet<FieldId>): Relation {
  const at = node.columns.flatMap((column, index) => (wanted.has(column.id) ? [index] : []));
  const chosen = node.inputs.map((before, slot): Relation => {
    const input = inputs[slot] ?? before;
    const columns = at.flatMap((index) => columnsOf(before)[index] ?? []);
    const same = columns.length === columnsOf(input).length && columns.every((each, index) => each.id === columnsOf(input)[index]?.id);
    return same ? input : { node: 'choose', input, columns };
  });
  return { ...node, columns: at.flatMap((index) => node.columns[index] ?? []), inputs: chosen };
}
