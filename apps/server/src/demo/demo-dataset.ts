import type { Clause, ComparedPair, Condition, Definition, Kept, Parameter, RowWords, SummaryAggregate } from '@cendra/core';
import { mintId } from '../datasets';
import type { DemoLineSheet } from './demo-line-sheet';

/** Where the cooperative keeps its records, as links of rows lead to them. */
export const RECORDS = 'https://records.cooperative.example/';

/** A dataset of the demo: which columns of a table it takes, and what it does with them. */
export interface DemoDataset {
  readonly title: string;
  readonly table: string;
  readonly taken: readonly string[];
  readonly parameters?: (field: FieldOf, other: OtherOf) => readonly Parameter[];
  /** What the table's rows are called. */
  readonly called?: RowWords;
  /** Steps behind the table, in order. */
  readonly steps: (field: FieldOf) => readonly DemoStep[];
  /** How its proof reads it, by the names of what is handed over. */
  readonly reads?: (field: FieldOf) => Definition['proof'];
  /** What is said of it: description, field sheet, brief and proof. */
  readonly says?: (field: FieldOf) => Partial<Pick<Definition, 'description' | 'tags' | 'sheet' | 'order' | 'brief' | 'proof'>>;
}

/** The id of a column's field. */
export type FieldOf = (column: string) => string;
/** A dataset made before, by its title: its id and those of its fields. */
export type OtherOf = (title: string) => { readonly id: string; readonly field: FieldOf };

export type DemoStep =
  | { readonly kind: 'criteria'; readonly clauses: readonly Clause[] }
  | DemoJoin
  | DemoUnion
  | DemoLineSheet
  | {
      readonly kind: 'summarise';
      readonly keys: readonly (readonly [name: string, expression: string])[];
      readonly values: readonly (readonly [name: string, aggregate: SummaryAggregate, expression: string])[];
      /** Groups also without rows: of this key, for every day within this parameter. */
      readonly everyDay?: { readonly key: string; readonly parameter: string };
    }
  | {
      readonly kind: 'unpivot';
      readonly label: string;
      readonly value: string;
      readonly lines: readonly (readonly [word: string, field: string])[];
    }
  | {
      readonly kind: 'arrange';
      readonly sort: readonly (readonly [field: string, direction: 'ascending' | 'descending'])[];
      readonly first?: { readonly count: string; readonly per: readonly string[] };
    }
  | { readonly kind: 'calculate'; readonly name?: string; readonly fields: readonly (readonly [name: string, expression: string])[] };

/** Rows of another table below these. */
export interface DemoUnion {
  readonly kind: 'union';
  readonly table: string;
  readonly called?: RowWords;
  readonly taken: readonly string[];
  /** What stands together, by the names of both sides; one alone where the other side has none. */
  readonly fields: readonly (readonly [name: string, first: string | null, second: string | null])[];
  /** The field that says where a row came from, with the words for both. */
  readonly source: readonly [name: string, first: string, second: string];
}

/** Rows of another table brought in. */
export interface DemoJoin {
  readonly kind: 'join';
  readonly name?: string;
  readonly table: string;
  readonly called?: RowWords;
  readonly role?: RowWords;
  readonly pairs: readonly DemoPair[];
  readonly keeps?: Kept;
  /** Why it is meant that a row may meet several. */
  readonly accepted?: string;
  /** Columns of the table, or the names fields of it got here. */
  readonly taken: readonly string[];
}

type DemoPair = Partial<Pick<ComparedPair, 'comparison' | 'overlooks' | 'nullsMeet'>> & {
  readonly left: string;
  readonly right: string;
  readonly until?: string;
};

export const asks = (field: string, operator: string, operands: Condition['operands'], andNulls = false): Condition => ({
  id: mintId(),
  kind: 'condition',
  off: false,
  field,
  operator,
  operands,
  andNulls,
});
export const values = (...texts: string[]): Condition['operands'] => texts.map((text) => ({ kind: 'value', text }));
export const parameter = (id: string): Condition['operands'] => [{ kind: 'parameter', id }];
export const written = (text: string): Clause => ({ id: mintId(), kind: 'expression', off: false, expression: { text, refs: [] } });

/** A parameter that may stay empty and says nothing of itself. */
export const PLAIN = { leftBlank: 'condition is off', startsAs: [], hint: '' } as const;
