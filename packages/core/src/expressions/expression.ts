import type { FieldId, FieldType } from '../fields';
import type { RelativeDay } from '../parameters';
import type { Span } from '../problem';
import type { Calendar, ExtractUnit, ShiftUnit, Value } from '../values';
import type { Arithmetic, Comparison, Frame, NowWord } from './tree';

/**
 * Operations every engine has a way of its own to write. The functions an analyst writes are built from these
 * when an expression is checked, so that each is defined once.
 */
export const PRIMITIVES = [
  'concat',
  'charLength',
  'upper',
  'lower',
  'substring',
  'position',
  'trimBoth',
  'trimLeading',
  'trimTrailing',
  'replace',
  'joinText',
  'padZeros',
  'groupDigits',
  'captured',
  'pick',
  'abs',
  'mod',
  'floor',
  'ceiling',
  'round',
  'power',
  'sqrt',
  'greatest',
  'least',
  'extract',
  'shift',
  'daysBetween',
  'dayOf',
  // Whole numbers known to be small, such as parts of a date: nothing can overflow.
  'addSmall',
  'subtractSmall',
  'multiplySmall',
] as const;
export type Primitive = (typeof PRIMITIVES)[number];

export const WINDOW_FUNCTIONS = [
  'sum',
  'count',
  'countRows',
  'min',
  'max',
  'rowNumber',
  'rank',
  'denseRank',
  'lag',
  'lead',
  'first',
] as const;
export type WindowFunction = (typeof WINDOW_FUNCTIONS)[number];

/** A value computed over other rows: of which partition, in which order, over which frame. */
export interface Window {
  readonly op: 'window';
  readonly type: FieldType;
  readonly name: WindowFunction;
  /** What is aggregated or fetched; for lag and lead also the value where there is no such row. */
  readonly of: readonly Expression[];
  /** How many rows lag and lead step. */
  readonly step?: number;
  readonly partition: readonly Expression[];
  readonly order: readonly OrderBy[];
  /** In rows; left out, all rows of the partition, or with an order all up to the current row and its equals. */
  readonly frame?: Frame;
}

export interface OrderBy {
  readonly of: Expression;
  readonly descending: boolean;
  readonly nullsFirst: boolean;
}

export interface Call {
  readonly op: 'call';
  readonly type: FieldType;
  readonly name: Primitive;
  readonly of: readonly Expression[];
  readonly unit?: ExtractUnit | ShiftUnit;
}

/** A checked expression: every node has its type, names are ids, conversions are explicit. */
export type Expression =
  | { readonly op: 'literal'; readonly type: FieldType; readonly value: Value }
  | { readonly op: 'field'; readonly type: FieldType; readonly id: FieldId }
  /** One value of a parameter; for a parameter that takes a range, `part` tells which end. */
  | { readonly op: 'parameter'; readonly type: FieldType; readonly id: string; readonly part?: 'from' | 'until' }
  | {
      readonly op: 'arithmetic';
      readonly type: FieldType;
      readonly operator: Arithmetic;
      readonly left: Expression;
      readonly right: Expression;
    }
  | { readonly op: 'negate'; readonly type: FieldType; readonly of: Expression }
  /** Widening that loses nothing but, toward floating numbers, exactness: whole → decimal → float, date → date-time, instant → date-time in its zone. */
  | { readonly op: 'widen'; readonly type: FieldType; readonly of: Expression }
  | {
      readonly op: 'compare';
      readonly type: FieldType;
      readonly operator: Comparison;
      readonly left: Expression;
      readonly right: Expression;
    }
  | { readonly op: 'and' | 'or'; readonly type: FieldType; readonly items: readonly Expression[] }
  | { readonly op: 'not'; readonly type: FieldType; readonly of: Expression }
  | { readonly op: 'isNull'; readonly type: FieldType; readonly of: Expression }
  /** Yes where the condition is true, no where it is false or unknown. */
  | { readonly op: 'isTrue'; readonly type: FieldType; readonly of: Expression }
  /** Yes where the source of a field keeps a value there that fits no type, and is null as the field. */
  | { readonly op: 'misfit'; readonly type: FieldType; readonly of: Expression & { readonly op: 'field' } }
  /** The day after a date; turns "until 30 Sep" on a date-time into "before 1 Oct". */
  | { readonly op: 'dayAfter'; readonly type: FieldType; readonly of: Expression }
  | {
      readonly op: 'textMatch';
      readonly type: FieldType;
      readonly how: 'contains' | 'begins' | 'ends';
      readonly of: Expression;
      readonly part: Expression;
    }
  | { readonly op: 'in'; readonly type: FieldType; readonly of: Expression; readonly items: readonly Expression[] }
  /** Membership in all values of a parameter that takes several, bound as one list. */
  | { readonly op: 'inList'; readonly type: FieldType; readonly listType: FieldType; readonly of: Expression; readonly id: string }
  | { readonly op: 'like'; readonly type: FieldType; readonly of: Expression; readonly pattern: Expression; readonly escape?: string }
  /** The moment of the run, the same in every row and statement of it, as clocks of the zone show it; left out: UTC. */
  | { readonly op: 'now'; readonly type: FieldType; readonly word: NowWord; readonly zone?: string }
  /** A day told from the moment of the run, such as the start of last season; null where it leaves the years 1 to 9999. */
  | { readonly op: 'relativeDay'; readonly type: FieldType; readonly day: RelativeDay; readonly calendar: Calendar }
  | {
      readonly op: 'case';
      readonly type: FieldType;
      readonly branches: readonly { readonly when: Expression; readonly then: Expression }[];
      readonly otherwise: Expression;
    }
  | { readonly op: 'coalesce'; readonly type: FieldType; readonly items: readonly Expression[] }
  | { readonly op: 'cast'; readonly type: FieldType; readonly of: Expression }
  | Call
  | Window;

/** An expression as it is stored: the typed text, and which spans of it mean which field or parameter. */
export interface ExpressionText {
  readonly text: string;
  readonly refs: readonly Reference[];
}

export interface Reference extends Span {
  readonly kind: 'field' | 'parameter';
  readonly id: string;
}

/** The direct operands of a node, in reading order. */
export function operandsOf(node: Expression): readonly Expression[] {
  switch (node.op) {
    case 'literal':
    case 'field':
    case 'parameter':
    case 'now':
    case 'relativeDay':
      return [];
    case 'arithmetic':
    case 'compare':
      return [node.left, node.right];
    case 'and':
    case 'or':
    case 'coalesce':
      return node.items;
    case 'case':
      return [...node.branches.flatMap(({ when, then }) => [when, then]), node.otherwise];
    case 'call':
      return node.of;
    case 'window':
      return [...node.of, ...node.partition, ...node.order.map((each) => each.of)];
    case 'in':
      return [node.of, ...node.items];
    case 'like':
      return [node.of, node.pattern];
    case 'textMatch':
      return [node.of, node.part];
    default:
      return [node.of];
  }
}

/** Every node of the expression, operands before the node that uses them; a part that stands in several places once. */
export function nodesOf(root: Expression): readonly Expression[] {
  const nodes = new Set<Expression>();
  const visit = (node: Expression): void => {
    if (nodes.has(node)) return;
    operandsOf(node).forEach(visit);
    nodes.add(node);
  };
  visit(root);
  return [...nodes];
}

/** How many operations an expression comes to when it is written out; parts that are shared count at every place. */
export function sizeOf(root: Expression, known = new Map<Expression, number>()): number {
  const size = known.get(root) ?? operandsOf(root).reduce((sum, each) => sum + sizeOf(each, known), 1);
  known.set(root, size);
  return size;
}

export function fieldsUsed(root: Expression): readonly FieldId[] {
  return [...new Set(nodesOf(root).flatMap((node) => (node.op === 'field' ? [node.id] : [])))];
}

/** Parameters as blanks are keyed: by id, the ends of a range as `id.from` and `id.until`. */
export function parameterKeysUsed(root: Expression): readonly string[] {
  return nodesOf(root).flatMap((node) => {
    if (node.op === 'inList') return [node.id];
    if (node.op !== 'parameter') return [];
    return [node.part ? `${node.id}.${node.part}` : node.id];
  });
}

export function parametersUsed(root: Expression): readonly string[] {
  return [...new Set(nodesOf(root).flatMap((node) => (node.op === 'parameter' || node.op === 'inList' ? [node.id] : [])))];
}

/** The windows of an expression; none stands inside another. */
export function windowsOf(root: Expression): readonly Window[] {
  return nodesOf(root).flatMap((node) => (node.op === 'window' ? [node] : []));
}

/** The same expression over other operands, given in the order of `operandsOf`. */
export function withOperands(node: Expression, operands: readonly Expression[]): Expression {
  let at = 0;
  const next = (): Expression => {
    const operand = operands[at++];
    if (!operand) throw new RangeError('an expression keeps the number of its operands');
    return operand;
  };
  switch (node.op) {
    case 'literal':
    case 'field':
    case 'parameter':
    case 'now':
    case 'relativeDay':
      return node;
    case 'misfit': {
      const of = next();
      if (of.op !== 'field') throw new RangeError('only a field has a misfit');
      return { ...node, of };
    }
    case 'arithmetic':
    case 'compare':
      return { ...node, left: next(), right: next() };
    case 'and':
    case 'or':
    case 'coalesce':
      return { ...node, items: node.items.map(next) };
    case 'case':
      return { ...node, branches: node.branches.map(() => ({ when: next(), then: next() })), otherwise: next() };
    case 'call':
      return { ...node, of: node.of.map(next) };
    case 'window':
      return {
        ...node,
        of: node.of.map(next),
        partition: node.partition.map(next),
        order: node.order.map((each) => ({ ...each, of: next() })),
      };
    case 'in':
      return { ...node, of: next(), items: node.items.map(next) };
    case 'like':
      return { ...node, of: next(), pattern: next() };
    case 'textMatch':
      return { ...node, of: next(), part: next() };
    default:
      return { ...node, of: next() };
  }
}

/** The expression with field ids exchanged, structure and types untouched; ids that are not named stay. */
export function withFields(node: Expression, ids: ReadonlyMap<FieldId, FieldId>): Expression {
  if (node.op === 'field') return { ...node, id: ids.get(node.id) ?? node.id };
  return withOperands(
    node,
    operandsOf(node).map((each) => withFields(each, ids)),
  );
}
