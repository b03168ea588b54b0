import type { Expression } from '../expressions';
import { either, failureOf, fieldsUsed, isTrue, not, wholeLiteral, windowsOf } from '../expressions';
import type { Schema } from '../fields';
import { whole, yesno } from '../fields';
import type { Binding } from '../parameters';
import type { Relation } from '../sql';
import { columnsOf, failedColumn, prune, shared } from '../sql';
import { calculatedColumns, calculateRelation, criteriaCondition } from '../steps';
import type { CalculateStep, Catalogue, Step, StepContext } from '../steps';
import type { CheckedTrail } from '../trail';
import { checkedStep, subTrail } from '../trail';
import { relationAfter } from './plan';

/** The exact row counts of a chain of steps. */
export interface CountPlan {
  /** Statements in the order of the trail: a new one begins where values over other rows need the rows that are left. */
  readonly segments: readonly CountSegment[];
}

export interface CountSegment {
  readonly relation: Relation;
  /** The steps counted: the first one's rows arrive, each later one keeps rows of the one before. */
  readonly steps: readonly CountedStep[];
  /** What the failure columns of the statement stand for, in their order. */
  readonly failures: readonly CountedFailure[];
}

interface CountedStep {
  readonly step: string;
  /** Number of its stage in the statement; 0 when it keeps every row. */
  readonly stage: number;
}

interface CountedFailure {
  readonly step: string;
  /** The calculated field, or left out for the step as a whole. */
  readonly field?: string;
  /** How many stages a row has passed when it arrives at the step. */
  readonly after: number;
}

export interface StepCount {
  readonly step: string;
  readonly rows: bigint;
  /** Rows that arrive at the step and in which computing something failed there. */
  readonly failed: bigint;
  /** The same for each calculated field that can fail. */
  readonly fields: readonly { readonly field: string; readonly failed: bigint }[];
}

type Counting = StepContext & { readonly binding: Binding };

/** How to count the trail up to a step: a `case` gives each row the number of the first criteria step it fails. */
export function planCounts(trail: CheckedTrail, stepId: string, binding: Binding, catalogue: Catalogue = () => undefined): CountPlan {
  const chain = subTrail(trail.definition, stepId);
  const [first, ...rest] = chain;
  if (!first) throw new RangeError('a trail without steps is not counted');
  const { parameters, calendar } = trail.definition;
  const context: Counting = { parameters, calendar, catalogue, binding };
  const segments = [new Segment(relationAfter(trail, first.id, binding, catalogue), first.id)];
  let current = segments[0] as Segment;
  for (const [index, step] of rest.entries()) {
    const schema = checkedStep(trail, step.inputs[0] ?? '')?.schema ?? { fields: [] };
    if (current.hasStages && looksAtOtherRows(step, schema, context)) {
      current = new Segment(relationAfter(trail, chain[index]?.id ?? first.id, binding, catalogue), undefined);
      segments.push(current);
    }
    current.add(step, schema, context);
  }
  return { segments: segments.map((each) => each.finished()) };
}

function looksAtOtherRows(step: Step, schema: Schema, context: Counting): boolean {
  return (
    step.kind === 'calculate' && !step.off && calculatedColumns(step, schema, context).some((each) => windowsOf(each.expression).length > 0)
  );
}

/** One statement in the making. */
class Segment {
  private readonly steps: CountedStep[] = [];
  private readonly conditions: Expression[] = [];
  private readonly failures: (CountedFailure & { readonly when: Expression })[] = [];

  constructor(
    private relation: Relation,
    arriving: string | undefined,
  ) {
    if (arriving !== undefined) this.steps.push({ step: arriving, stage: 0 });
  }

  get hasStages(): boolean {
    return this.conditions.length > 0;
  }

  add(step: Step, schema: Schema, context: Counting): void {
    const after = this.conditions.length;
    if (!step.off && step.kind === 'calculate') this.calculate(step, schema, context);
    const condition = !step.off && step.kind === 'criteria' ? criteriaCondition(step, schema, context) : undefined;
    if (!condition) {
      this.steps.push({ step: step.id, stage: 0 });
      return;
    }
    const failure = failureOf(condition);
    if (failure) this.failures.push({ step: step.id, after, when: failure });
    this.conditions.push(condition);
    this.steps.push({ step: step.id, stage: this.conditions.length });
  }

  private calculate(step: CalculateStep, schema: Schema, context: Counting): void {
    const arriving = new Set(columnsOf(this.relation).map((each) => each.id));
    this.relation = calculateRelation(step, this.relation, schema, context, true);
    const present = new Set(columnsOf(this.relation).flatMap(({ id }) => (arriving.has(id) ? [] : [id])));
    const flags = step.fields.flatMap(({ id }) => (present.has(failedColumn(id).id) ? [{ field: id, when: flag(id) }] : []));
    if (flags.length === 0) return;
    const after = this.conditions.length;
    const when = flags.map((each) => each.when);
    this.failures.push({ step: step.id, after, when: when.length > 1 ? either(...when) : (when[0] as Expression) });
    this.failures.push(...flags.map((each) => ({ ...each, step: step.id, after })));
  }

  finished(): CountSegment {
    const asked = [...this.conditions, ...this.failures.map((each) => each.when)];
    const { relation, expressions } = shared(this.relation, asked);
    const [conditions, failures] = [expressions.slice(0, this.conditions.length), expressions.slice(this.conditions.length)];
    const wanted = new Set([...conditions, ...failures].flatMap(fieldsUsed));
    return {
      relation: prune(stagesOf(relation, conditions, failures), wanted),
      steps: this.steps,
      failures: this.failures.map(({ when: _, ...each }) => each),
    };
  }
}

/** Each row gets the number of the first condition it fails (0 for none); per number, the rows and those where each failure holds. */
function stagesOf(input: Relation, conditions: readonly Expression[], failures: readonly Expression[]): Relation {
  const branches = conditions.map((of, index) => ({ when: not(isTrue(of)), then: wholeLiteral(index + 1) }));
  const stage: Expression = branches.length === 0 ? wholeLiteral(0) : { op: 'case', type: whole, branches, otherwise: wholeLiteral(0) };
  return {
    node: 'group',
    input,
    keys: [{ id: 'stage', name: 'stage', type: whole, expression: stage }],
    counts: [{ id: 'rows' }, ...failures.map((when, index) => ({ id: `failed ${index + 1}`, when }))],
  };
}

const flag = (id: string): Expression => ({ op: 'field', type: yesno, id: failedColumn(id).id });

/** A group a statement gave: the number of a stage, how many rows, and in how many of them each failure held. */
export interface StageGroup {
  readonly stage: number;
  readonly rows: bigint;
  readonly failed: readonly bigint[];
}

/** Counts per step from the groups each segment's statement gave. */
export function countsFrom(plan: CountPlan, groups: readonly (readonly StageGroup[])[]): readonly StepCount[] {
  return plan.segments.flatMap((segment, index) => segmentCounts(segment, groups[index] ?? []));
}

function segmentCounts(segment: CountSegment, groups: readonly StageGroup[]): readonly StepCount[] {
  let left = groups.reduce((sum, each) => sum + each.rows, 0n);
  const failed = segment.failures.map(({ after, ...failure }, column) => ({
    ...failure,
    failed: groups.reduce((sum, { stage, failed: counts }) => (stage === 0 || stage > after ? sum + (counts[column] ?? 0n) : sum), 0n),
  }));
  return segment.steps.map(({ step, stage }) => {
    if (stage > 0) left -= groups.find((each) => each.stage === stage)?.rows ?? 0n;
    const own = failed.filter((each) => each.step === step);
    return {
      step,
      rows: left,
      failed: own.find((each) => each.field === undefined)?.failed ?? 0n,
      fields: own.flatMap(({ field, failed: count }) => (field === undefined ? [] : [{ field, failed: count }])),
    };
  });
}
