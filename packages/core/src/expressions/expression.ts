import type { FieldId, FieldType } from '../fields';
import type { Span } from '../problem';
import type { Value } from '../values';
import type { Arithmetic, Comparison } from './tree';

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
  /** Widening that loses nothing but, toward floating numbers, exactness: whole → decimal → float, date → date-time. */
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
  | { readonly op: 'like'; readonly type: FieldType; readonly of: Expression; readonly pattern: Expression; readonly escape?: string };

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
      return [];
    case 'arithmetic':
    case 'compare':
      return [node.left, node.right];
    case 'and':
    case 'or':
      return node.items;
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

/** Every node of the expression, operands before the node that uses them. */
export function nodesOf(root: Expression): readonly Expression[] {
  return [...operandsOf(root).flatMap(nodesOf), root];
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
