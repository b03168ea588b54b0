import type { Expression } from '../expressions';
import { fieldsUsed } from '../expressions';
import type { FieldId, FieldType } from '../fields';

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
  /** The input's columns and computed ones behind them. */
  | { readonly node: 'calculate'; readonly input: Relation; readonly fields: readonly CalculatedColumn[] }
  /** Rows of all inputs on top of one another; columns by position, named and identified by `columns`. */
  | { readonly node: 'union'; readonly inputs: readonly Relation[]; readonly columns: readonly Column[] }
  | { readonly node: 'limit'; readonly input: Relation; readonly count: number }
  /** For each row the number of the first condition that is not true (0 when all are); counted per number. */
  | { readonly node: 'stages'; readonly input: Relation; readonly stages: readonly Stage[] }
);

export interface CalculatedColumn extends Column {
  readonly expression: Expression;
}

export interface Stage {
  readonly condition: Expression;
  /** True where computing the condition failed; counted apart. */
  readonly failure?: Expression;
}

export const STAGE_COLUMNS: readonly Column[] = [
  { id: 'stage', name: 'stage', type: { kind: 'whole' } },
  { id: 'rows', name: 'rows', type: { kind: 'whole' } },
  { id: 'failed', name: 'failed', type: { kind: 'whole' } },
];

export function columnsOf(relation: Relation): readonly Column[] {
  switch (relation.node) {
    case 'table':
    case 'landed':
    case 'choose':
    case 'union':
      return relation.columns;
    case 'filter':
    case 'limit':
      return columnsOf(relation.input);
    case 'calculate':
      return [...columnsOf(relation.input), ...relation.fields.map(({ id, name, type }) => ({ id, name, type }))];
    case 'stages':
      return STAGE_COLUMNS;
  }
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
  if (relation.node === 'stages')
    return relation.stages.flatMap((stage) => (stage.failure ? [stage.condition, stage.failure] : [stage.condition]));
  return [];
}

/** The same relation reading only what is needed for `wanted` and for its own conditions. */
export function prune(relation: Relation, wanted: ReadonlySet<FieldId>): Relation {
  const needed = new Set([...wanted, ...expressionsOf(relation).flatMap(fieldsUsed)]);
  switch (relation.node) {
    case 'table':
      return { ...relation, columns: relation.columns.filter((each) => wanted.has(each.id)) };
    case 'landed':
      return { ...relation, columns: relation.columns.filter((each) => wanted.has(each.id)) };
    case 'choose': {
      const columns = relation.columns.filter((each) => wanted.has(each.id));
      return { ...relation, columns, input: prune(relation.input, new Set(columns.map((each) => each.id))) };
    }
    case 'calculate': {
      const fields = relation.fields.filter((each) => wanted.has(each.id));
      const used = new Set([...wanted, ...fields.flatMap((each) => fieldsUsed(each.expression))]);
      return { ...relation, fields, input: prune(relation.input, used) };
    }
    case 'union':
      return pruneUnion(relation, wanted);
    default:
      return { ...relation, input: prune(relation.input, needed) };
  }
}

function pruneUnion(relation: Relation & { node: 'union' }, wanted: ReadonlySet<FieldId>): Relation {
  const kept = relation.columns.flatMap((column, index) => (wanted.has(column.id) ? [index] : []));
  const inputs = relation.inputs.map((input) => {
    const columns = kept.flatMap((index) => columnsOf(input)[index] ?? []);
    return prune({ node: 'choose', input, columns }, new Set(columns.map((each) => each.id)));
  });
  return { ...relation, columns: kept.flatMap((index) => relation.columns[index] ?? []), inputs };
}
