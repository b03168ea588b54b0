import type { ExpressionText } from '../expressions';
import type { FieldId } from '../fields';
import type { StepBase } from './step';

/** What rows are sorted by; its id is its own, for a field may be named while it is not chosen yet. */
export interface ArrangeKey {
  readonly id: string;
  readonly field: FieldId;
  readonly descending: boolean;
  readonly nullsFirst: boolean;
}

/** The first rows by the order: so many of all, or of each combination of `per`. */
export interface FirstRows {
  /** A whole number, or a parameter. Blank, all rows are kept. */
  readonly count: ExpressionText;
  /** Rows that are equal in the order to the last one kept are kept too. */
  readonly ties: boolean;
  readonly per: readonly FieldId[];
}

/** A field that goes on, in this place; `forUseOnly` is not handed over. */
export interface ArrangedField {
  readonly field: FieldId;
  readonly forUseOnly: boolean;
}

/** The order, number and fields of rows. Everything it says nothing about stays as it came. */
export interface ArrangeStep extends StepBase {
  readonly kind: 'arrange';
  readonly sort: readonly ArrangeKey[];
  readonly first: FirstRows | null;
  /** One row per combination of these fields: the first by the order. */
  readonly distinct: readonly FieldId[] | null;
  /** The fields that go on, in their order; null for all as they come. */
  readonly fields: readonly ArrangedField[] | null;
}

/** Fields sorted by stay for use, so that the order can be shown. */
export const isKept = (step: ArrangeStep, field: FieldId): boolean =>
  step.fields === null || step.fields.some((each) => each.field === field) || step.sort.some((each) => each.field === field);
