import type { Expression, ExpressionText } from '../expressions';
import type { Field, FieldType } from '../fields';

/** What many values are told by. `rows` counts rows, `count` rows with a value, `distinct count` different values. */
export const SUMMARY_AGGREGATES = [
  'rows',
  'count',
  'distinct count',
  'sum',
  'average',
  'least',
  'greatest',
  'median',
  'first',
  'last',
  'joined',
  'share',
] as const;
export type SummaryAggregate = (typeof SUMMARY_AGGREGATES)[number];

/** What rows are grouped by: a field or an expression. */
export interface SummaryKey {
  readonly id: string;
  readonly name: string;
  readonly expression: ExpressionText;
}

/** A figure of each group. */
export interface SummaryValue {
  readonly id: string;
  readonly name: string;
  readonly aggregate: SummaryAggregate;
  /** Of what; nothing for `rows`, a condition for `share`. */
  readonly expression: ExpressionText;
  /** Only among the rows where this holds; empty for all. */
  readonly among: ExpressionText;
  /** By what `first`, `last` and `joined` are told; else empty. Texts are joined in their own order where it is empty. */
  readonly order: ExpressionText;
  /** What stands between joined texts; a comma and a blank where it is left out. */
  readonly separator?: string;
}

export const separatorOf = ({ separator }: Pick<SummaryValue, 'separator'>): string => separator ?? ', ';

export interface CheckedKey {
  readonly key: SummaryKey;
  readonly expression?: Expression;
}

export interface CheckedValue {
  readonly value: SummaryValue;
  readonly type?: FieldType;
  readonly of?: Expression;
  readonly among?: Expression;
  readonly order?: Expression;
  /** Fields of a key, which decide between rows that are equal in the order. */
  readonly ties?: readonly Field[];
}

/** Sums and counts add up again; averages, medians, different values, extremes and shares do not. */
export const addsUpAgain = (aggregate: SummaryAggregate): boolean => ['rows', 'count', 'sum'].includes(aggregate);
