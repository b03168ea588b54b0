import type { FieldType } from '../fields';
import type { Span } from '../problem';

export type Arithmetic = '+' | '-' | '*' | '/';
export type Comparison = '=' | '<>' | '<' | '<=' | '>' | '>=';

export const NOW_WORDS = ['current_date', 'current_time', 'current_timestamp', 'localtime', 'localtimestamp'] as const;
export type NowWord = (typeof NOW_WORDS)[number];

/** The tree as written: names are not resolved and nothing has a type. `missing` stands where something was left out. */
export type Tree = Span &
  (
    | { readonly node: 'number'; readonly text: string }
    | { readonly node: 'string'; readonly text: string }
    /** `date '2025-04-01'`, `time '10:30'`, `timestamp '2025-04-01 10:30'`. */
    | { readonly node: 'dated'; readonly type: 'date' | 'time' | 'timestamp'; readonly text: string }
    /** `interval '3' day`; only added to and subtracted from days, so it has no type of its own. */
    | { readonly node: 'interval'; readonly amount: string; readonly unit: string }
    | { readonly node: 'constant'; readonly value: true | false | null }
    | { readonly node: 'now'; readonly word: NowWord }
    | { readonly node: 'name'; readonly name: string; readonly quoted: boolean }
    | { readonly node: 'parameter'; readonly name: string }
    | { readonly node: 'arithmetic'; readonly operator: Arithmetic; readonly left: Tree; readonly right: Tree }
    | { readonly node: 'concat'; readonly left: Tree; readonly right: Tree }
    | { readonly node: 'negate'; readonly of: Tree }
    | { readonly node: 'compare'; readonly operator: Comparison; readonly left: Tree; readonly right: Tree }
    | { readonly node: 'distinct'; readonly left: Tree; readonly right: Tree; readonly negated: boolean }
    | { readonly node: 'and' | 'or'; readonly items: readonly Tree[] }
    | { readonly node: 'not'; readonly of: Tree }
    | { readonly node: 'isNull'; readonly of: Tree; readonly negated: boolean }
    /** `is true`, `is false`, `is unknown`. */
    | { readonly node: 'isTruth'; readonly of: Tree; readonly truth: true | false | null; readonly negated: boolean }
    | { readonly node: 'between'; readonly of: Tree; readonly low: Tree; readonly high: Tree; readonly negated: boolean }
    | { readonly node: 'in'; readonly of: Tree; readonly items: readonly Tree[]; readonly negated: boolean }
    | { readonly node: 'like'; readonly of: Tree; readonly pattern: Tree; readonly escape?: Tree; readonly negated: boolean }
    /** `case operand when … then … else … end`; without an operand each `when` is a condition. */
    | { readonly node: 'case'; readonly operand?: Tree; readonly branches: readonly Branch[]; readonly otherwise?: Tree }
    | { readonly node: 'cast'; readonly of: Tree; readonly type: FieldType | undefined; readonly typeAt: Span }
    | CallTree
    | { readonly node: 'window'; readonly call: CallTree; readonly over: WindowTree }
    | { readonly node: 'missing' }
  );

/** A function with its operands; the standard's spelled-out forms (`substring(x from 2)`) come out as plain ones. */
export type CallTree = Span & {
  readonly node: 'call';
  readonly name: string;
  readonly nameAt: Span;
  readonly args: readonly Tree[];
  /** The unit of `extract(unit from …)`. */
  readonly unit?: string;
  /** `count(*)`. */
  readonly star?: true;
};

export interface Branch {
  readonly when: Tree;
  readonly then: Tree;
}

export interface WindowTree {
  readonly partition: readonly Tree[];
  readonly order: readonly OrderTree[];
  readonly frame?: Frame;
}

export interface OrderTree {
  readonly of: Tree;
  readonly descending: boolean;
  /** As written; left out, nulls come last in both directions. */
  readonly nullsFirst: boolean;
}

/** Rows of a frame, counted from the current row; undefined for unbounded. Negative is before. */
export interface Frame {
  readonly from: number | undefined;
  readonly until: number | undefined;
}

/** The direct parts of a tree, in reading order. */
export function childrenOf(tree: Tree): readonly Tree[] {
  switch (tree.node) {
    case 'arithmetic':
    case 'concat':
    case 'compare':
    case 'distinct':
      return [tree.left, tree.right];
    case 'and':
    case 'or':
      return tree.items;
    case 'negate':
    case 'not':
    case 'isNull':
    case 'isTruth':
    case 'cast':
      return [tree.of];
    case 'between':
      return [tree.of, tree.low, tree.high];
    case 'in':
      return [tree.of, ...tree.items];
    case 'like':
      return tree.escape ? [tree.of, tree.pattern, tree.escape] : [tree.of, tree.pattern];
    case 'case':
      return [
        ...(tree.operand ? [tree.operand] : []),
        ...tree.branches.flatMap(({ when, then }) => [when, then]),
        ...(tree.otherwise ? [tree.otherwise] : []),
      ];
    case 'call':
      return tree.args;
    case 'window':
      return [...tree.call.args, ...tree.over.partition, ...tree.over.order.map((each) => each.of)];
    default:
      return [];
  }
}
