import { z } from 'zod';
import { arrangeKind } from './arrange';
import { calculateKind } from './calculate';
import { criteriaKind } from './criteria';
import { joinKind } from './join';
import type { StepKind } from './kind';
import { lineSheetKind } from './line-sheet';
import { lookupKind } from './lookup';
import { procedureKind } from './procedure';
import { scriptKind } from './script';
import type { Checked, StepBase } from './step';
import { sqlKind } from './sql';
import { summariseKind } from './summarise';
import { tableKind } from './table';
import type { TextStepParts } from './text-step';
import { unionKind } from './union';
import { unpivotKind } from './unpivot';

/** The kinds of step there are. A new one adds its line here; everything else follows from it. */
export const KINDS = {
  table: tableKind,
  sql: sqlKind,
  script: scriptKind,
  procedure: procedureKind,
  criteria: criteriaKind,
  calculate: calculateKind,
  join: joinKind,
  lookup: lookupKind,
  summarise: summariseKind,
  union: unionKind,
  unpivot: unpivotKind,
  arrange: arrangeKind,
  'line sheet': lineSheetKind,
};

type Kinds = typeof KINDS;
export type KindName = keyof Kinds;

/** A step of one kind, and what checking makes of it. */
export type StepOf<K extends KindName> = Kinds[K] extends StepKind<infer S, infer _C> ? S : never;
export type CheckedOf<K extends KindName> = Kinds[K] extends StepKind<infer S, infer C> ? Checked<S, C> : never;

/** Any step of a definition. */
export type Step = { readonly [K in KindName]: StepOf<K> }[KindName];

/** A step whose rows come of a text of an analyst's. */
export type TextStep = Extract<Step, TextStepParts>;

export const asTextStep = (step: Step | undefined): TextStep | undefined =>
  step?.kind === 'sql' || step?.kind === 'script' ? step : undefined;

/** Whether it is of several statements, which may make temp tables. */
export const isScript = ({ kind }: TextStep): boolean => kind === 'script';

/** Any step of a checked trail. */
export type CheckedStep = Checked<Step, unknown>;

/** The kind of a step. What is known of it here is only that it is some kind's; the registry is keyed by the step's own kind, so the cast is sound. */
export function kindOf(step: Pick<Step, 'kind'>): StepKind<Step, unknown> {
  return KINDS[step.kind] as unknown as StepKind<Step, unknown>;
}

/** Whether its rows come of a source, and of no other step’s rows: they begin there. */
export const readsSource = (step: Step): boolean => kindOf(step).sources(step, () => []).length > 0;

/** The step where it is of a kind. */
export function ofKind<K extends KindName>(kind: K, step: Step | undefined): StepOf<K> | undefined {
  return step?.kind === kind ? (step as unknown as StepOf<K>) : undefined;
}

/** The checked step where it is of a kind. */
export function checkedOf<K extends KindName>(kind: K, checked: CheckedStep | undefined): CheckedOf<K> | undefined {
  return checked?.step.kind === kind ? (checked as unknown as CheckedOf<K>) : undefined;
}

/** Any step's shape: that of its kind. */
export const stepShape: z.ZodType<Step> = z.lazy(() =>
  z.union(Object.values(KINDS).map((each) => each.shape as unknown as z.ZodType<Step>) as [z.ZodType<Step>, z.ZodType<Step>]),
);

export type { StepBase };
export * from './arrange';
export * from './arrangement';
export * from './calculate';
export { calculatedField, checkCalculated } from './calculated-fields';
export type { CheckedField, CheckedFields, FieldScope } from './calculated-fields';
export * from './catalogue';
export { commonFor, converted, valueIn } from './common-type';
export * from './criteria';
export * from './grain';
export * from './join';
export { joinCondition, joinRelation, metRows, partnerRows, sideColumns } from './join-relation';
export { partnerFields } from './join-fields';
export * from './kind';
export { callOfRoutine, partsOfStep, routineOfStep } from './kept-routine';
export * from './line-sheet';
export { exchanged, linedUp, lineWith, unionStep, withInputLinedUp, withoutInputLinedUp } from './lined-up';
export type { CheckedAmount, CheckedLine, CheckedLineSheet } from './line-sheet-check';
export { patternOf } from './line-sheet-check';
export { rowsOfLine } from './line-sheet-relation';
export * from './sheet-line';
export * from './lookup';
export * from './passing-through';
export { periodAmounts, PERIODS } from './period-amounts';
export type { Period, PeriodsAsked } from './period-amounts';
export * from './procedure';
export { blankPasses, callText } from './procedure-call';
export * from './reading';
export * from './row-words';
export * from './rows';
export * from './script';
export * from './sql';
export * from './sql-fields';
export * from './step';
export * from './summarise';
export type { SummaryAggregate, SummaryKey, SummaryValue } from './figures';
export { separatorOf, SUMMARY_AGGREGATES } from './figures';
export type { CheckedSummary } from './summary-relation';
export * from './every-group';
export * from './table';
export { triedCall } from './tried-call';
export type { TriedArgument } from './tried-call';
export { parametersNamed, sqlText, TEXT_MOST } from './text-step';
export type { LetBe, SqlText, TextStepParts } from './text-step';
export * from './union';
export * from './unpivot';
export * from './wanted-rows';
