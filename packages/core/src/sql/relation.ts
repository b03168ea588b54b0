import type { Expression, OrderBy } from '../expressions';
import { fieldsUsed } from '../expressions';
import type { FieldId, FieldType } from '../fields';
import { whole } from '../fields';

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
  /** Rows of all inputs on top of one another; columns by position, named and identified by `columns`. */
  | { readonly node: 'union'; readonly inputs: readonly Relation[]; readonly columns: readonly Column[] }
  /** All rows in an order. */
  | { readonly node: 'sort'; readonly input: Relation; readonly order: readonly OrderBy[] }
  /** The first rows, by an order or as they come. */
  | { readonly node: 'limit'; readonly input: Relation; readonly count: number; readonly order?: readonly OrderBy[] }
  /** Per combination of keys, and without keys once, in how many rows each condition holds; without a condition, how many rows there are. */
  | {
      readonly node: 'group';
      readonly input: Relation;
      readonly keys: readonly CalculatedColumn[];
      readonly counts: readonly CountColumn[];
      readonly measures?: readonly MeasureColumn[];
      /** Also per combination of fewer keys, from the last one on, down to all rows; how many keys a group has stands in this column. */
      readonly levels?: FieldId;
    }
);

/** One value made of many. Sums and counts leave nulls out; of nothing but nulls it is null, or 0 counted. */
export interface MeasureColumn extends Column {
  readonly aggregate: 'sum' | 'least' | 'greatest' | 'count' | 'distinct count';
  readonly of: Expression;
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

export function columnsOf(relation: Relation): readonly Column[] {
  switch (relation.node) {
    case 'table':
    case 'landed':
    case 'choose':
    case 'union':
      return relation.columns;
    case 'filter':
    case 'limit':
    case 'sort':
      return columnsOf(relation.input);
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
    case 'landed':
      return [];
    case 'union':
      return relation.inputs;
    default:
      return [relation.input];
  }
}

/** The expressions a node itself computes, not those of its inputs. */
export function expressionsOf(relation: Relation): readonly Expression[] {
  if (relation.node === 'filter') return [relation.condition];
  if (relation.node === 'calculate') return relation.fields.map((each) => each.expression);
  if (relation.node === 'limit' || relation.node === 'sort') return (relation.order ?? []).map((each) => each.of);
  if (relation.node === 'group')
    return [
      ...relation.keys.map((each) => each.expression),
      ...relation.counts.flatMap((each) => each.when ?? []),
      ...(relation.measures ?? []).flatMap((each) => (each.when ? [each.of, each.when] : [each.of])),
    ];
  return [];
}

/** The same relation reading only what is needed for `wanted` and for its own conditions. */
export function prune(relation: Relation, wanted: ReadonlySet<FieldId>): Relation {
  const needed = new Set([...wanted, ...expressionsOf(relation).flatMap(fieldsUsed)]);
  switch (relation.node) {
    case 'table':
      return { ...relation, columns: someOf(relation.columns, wanted) };
    case 'landed':
      return { ...relation, columns: someOf(relation.columns, wanted) };
    case 'choose': {
      const columns = relation.columns.filter((each) => wanted.has(each.id));
      return { ...relation, columns, input: prune(relation.input, new Set(columns.map((each) => each.id))) };
    }
    case 'calculate': {
      const fields = relation.fields.filter((each) => wanted.has(each.id));
      const used = new Set([...wanted, ...fields.flatMap((each) => fieldsUsed(each.expression))]);
      const input = prune(relation.input, used);
      const kept = columnsOf(input).flatMap(({ id }) => (wanted.has(id) ? [id] : []));
      return { ...relation, fields, kept, input };
    }
    case 'union':
      return pruneUnion(relation, wanted);
    case 'group':
      return { ...relation, input: prune(relation.input, new Set(expressionsOf(relation).flatMap(fieldsUsed))) };
    default:
      return { ...relation, input: prune(relation.input, needed) };
  }
}

/** Rows without any column cannot be brought anywhere, so one is kept where only their number is asked for. */
function someOf<T extends Column>(columns: readonly T[], wanted: ReadonlySet<FieldId>): readonly T[] {
  const some = columns.filter((each) => wanted.has(each.id));
  return some.length > 0 ? some : columns.slice(0, 1);
}

function pruneUnion(relation: Relation & { node: 'union' }, wanted: ReadonlySet<FieldId>): Relation {
  const kept = relation.columns.flatMap((column, index) => (wanted.has(column.id) ? [index] : []));
  const inputs = relation.inputs.map((input) => {
    const columns = kept.flatMap((index) => columnsOf(input)[index] ?? []);
    return prune({ node: 'choose', input, columns }, new Set(columns.map((each) => each.id)));
  });
  return { ...relation, columns: kept.flatMap((index) => relation.columns[index] ?? []), inputs };
}
