import type { Span } from '../problem';

export type Arithmetic = '+' | '-' | '*' | '/';
export type Comparison = '=' | '<>' | '<' | '<=' | '>' | '>=';

/** The tree as written: names are not resolved and nothing has a type. `missing` stands where something was left out. */
export type Tree = Span &
  (
    | { readonly node: 'number'; readonly text: string }
    | { readonly node: 'string'; readonly text: string }
    /** `date '2025-04-01'`, `time '10:30'`, `timestamp '2025-04-01 10:30'`. */
    | { readonly node: 'dated'; readonly type: 'date' | 'time' | 'timestamp'; readonly text: string }
    | { readonly node: 'constant'; readonly value: true | false | null }
    | { readonly node: 'name'; readonly name: string; readonly quoted: boolean }
    | { readonly node: 'parameter'; readonly name: string }
    | { readonly node: 'arithmetic'; readonly operator: Arithmetic; readonly left: Tree; readonly right: Tree }
    | { readonly node: 'negate'; readonly of: Tree }
    | { readonly node: 'compare'; readonly operator: Comparison; readonly left: Tree; readonly right: Tree }
    | { readonly node: 'and' | 'or'; readonly items: readonly Tree[] }
    | { readonly node: 'not'; readonly of: Tree }
    | { readonly node: 'isNull'; readonly of: Tree; readonly negated: boolean }
    | { readonly node: 'between'; readonly of: Tree; readonly low: Tree; readonly high: Tree; readonly negated: boolean }
    | { readonly node: 'in'; readonly of: Tree; readonly items: readonly Tree[]; readonly negated: boolean }
    | { readonly node: 'like'; readonly of: Tree; readonly pattern: Tree; readonly escape?: Tree; readonly negated: boolean }
    | { readonly node: 'missing' }
  );
