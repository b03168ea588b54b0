import { z } from 'zod';
import type { CalculateStep } from './calculate';
import { calculateKind } from './calculate';
import type { CriteriaStep } from './criteria';
import { criteriaKind } from './criteria';
import type { StepBase, StepKind } from './step';
import type { TableStep } from './table';
import { tableKind } from './table';

/** Every step of a definition. A new kind adds its type here and its object to the registry below. */
export type Step = TableStep | CriteriaStep | CalculateStep;

const REGISTRY: { readonly [K in Step['kind']]: StepKind<Extract<Step, { kind: K }>> } = {
  table: tableKind,
  criteria: criteriaKind,
  calculate: calculateKind,
};

/** The kind of a step; the cast is sound because the registry is keyed by the step's own kind. */
export function kindOf<S extends Step>(step: S): StepKind<S> {
  return REGISTRY[step.kind] as unknown as StepKind<S>;
}

export const stepShape: z.ZodType<Step> = z.union(
  Object.values(REGISTRY).map((each) => each.shape as z.ZodType<Step>) as [z.ZodType<Step>, z.ZodType<Step>],
);

export type { StepBase };
export * from './calculate';
export { checkCalculated } from './calculated-fields';
export type { CheckedField, CheckedFields, FieldScope } from './calculated-fields';
export * from './criteria';
export * from './rows';
export * from './step';
export * from './table';
