import type { Expression } from '../expressions';
import { failureOf, nodesOf } from '../expressions';
import type { Binding } from '../parameters';
import type { Relation } from '../sql';
import { criteriaCondition } from '../steps';
import type { Catalogue, Step } from '../steps';
import type { CheckedTrail } from '../trail';
import { checkedStep, subTrail } from '../trail';
import { prune } from '../sql';
import { relationAfter } from './plan';

/** The exact row counts of a chain of steps, taken by one statement. */
export interface CountPlan {
  readonly relation: Relation;
  /** The steps counted: the first reads, each later one keeps rows of the one before. */
  readonly steps: readonly CountedStep[];
}

interface CountedStep {
  readonly step: string;
  /** Number of its stage in the statement; 0 when it keeps every row. */
  readonly stage: number;
}

export interface StepCount {
  readonly step: string;
  readonly rows: bigint;
  /** Rows in which computing a condition failed; known for the whole chain, told at its last step. */
  readonly failed: bigint;
}

/** How to count the trail up to a step: a `case` gives each row the number of the first criteria step it fails. */
export function planCounts(trail: CheckedTrail, stepId: string, binding: Binding, catalogue: Catalogue = () => undefined): CountPlan {
  const chain = subTrail(trail.definition, stepId);
  const [first] = chain;
  if (!first) throw new RangeError('a trail without steps is not counted');
  const conditions: Expression[] = [];
  const steps = chain.map((step): CountedStep => {
    const condition = step.off ? undefined : conditionOf(step, trail, binding, catalogue);
    if (!condition) return { step: step.id, stage: 0 };
    conditions.push(condition);
    return { step: step.id, stage: conditions.length };
  });
  const stages = conditions.map((condition) => {
    const failure = failureOf(condition);
    return failure ? { condition, failure } : { condition };
  });
  const input = relationAfter(trail, first.id, binding, catalogue);
  return { relation: prune({ node: 'stages', input, stages }, new Set(conditions.flatMap(fieldIds))), steps };
}

const fieldIds = (condition: Expression) => nodesOf(condition).flatMap((node) => (node.op === 'field' ? [node.id] : []));

function conditionOf(step: Step, trail: CheckedTrail, binding: Binding, catalogue: Catalogue): Expression | undefined {
  if (step.kind !== 'criteria') return undefined;
  const schema = checkedStep(trail, step.inputs[0] ?? '')?.schema ?? { fields: [] };
  return criteriaCondition(step, schema, { parameters: trail.definition.parameters, catalogue, binding });
}

/** Counts per step from the groups the statement gave: stage number, rows, failed. */
export function countsFrom(
  plan: CountPlan,
  groups: readonly { readonly stage: number; readonly rows: bigint; readonly failed: bigint }[],
): readonly StepCount[] {
  const total = groups.reduce((sum, each) => sum + each.rows, 0n);
  const failed = groups.reduce((sum, each) => sum + each.failed, 0n);
  let left = total;
  return plan.steps.map(({ step, stage }, index) => {
    if (stage > 0) left -= groups.find((each) => each.stage === stage)?.rows ?? 0n;
    return { step, rows: left, failed: index === plan.steps.length - 1 ? failed : 0n };
  });
}
