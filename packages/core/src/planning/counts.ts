import type { Expression } from '../expressions';
import { either, fieldsUsed, isTrue, not, wholeLiteral } from '../expressions';
import type { FieldId, FieldType } from '../fields';
import { whole } from '../fields';
import type { Binding } from '../parameters';
import { aggregateType } from '../sheet';
import type { MeasureColumn, Relation } from '../sql';
import { columnsOf, prune, shared, valueOf } from '../sql';
import type { CheckedStep, FailureAt, Passing } from '../steps';
import { kindOf } from '../steps';
import type { CheckedTrail } from '../trail';
import { checkedStep, relationWhenOff, subTrail, watchedAt } from '../trail';
import { addDecimals, formatDecimal, parseDecimal } from '../values';
import { relationAfter } from './relations';

/** How to count the steps up to one, exactly. */
export interface CountPlan {
  /** Statements, each for a run of steps of which one keeps rows of the one before. */
  readonly segments: readonly CountSegment[];
  /** Steps whose rows are those of others together; each behind those it adds up. */
  readonly sums: readonly { readonly step: string; readonly of: readonly string[] }[];
  /** Figures that have to be asked for at their step: how many different values there are cannot be added up. */
  readonly distinct: readonly { readonly step: string; readonly figures: readonly number[]; readonly relation: Relation }[];
  /** Rows that arrive in a slot of a step which makes rows anew, and in which something could not be computed: all of them, then by field. */
  readonly failed: readonly { readonly step: string; readonly fields: readonly FieldId[]; readonly relation: Relation }[];
}

export interface CountSegment {
  readonly relation: Relation;
  /** The steps counted: the first one's rows arrive, each later one keeps rows of the one before. */
  readonly steps: readonly CountedStep[];
  /** What the failure columns of the statement stand for, in their order. */
  readonly failures: readonly CountedFailure[];
  /** Which watched figures the statement sums, in the order of its columns behind the failures, and up to which scale. */
  readonly sums: readonly { readonly figure: number; readonly type: FieldType }[];
}

interface CountedStep {
  readonly step: string;
  /** Number of its stage in the statement; 0 when it keeps every row. */
  readonly stage: number;
  /** Watched figures it has that are summed. */
  readonly figures?: readonly number[];
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
  /** Watched figures the step has, by their place among the watched; of no value at all, null. */
  readonly figures: readonly { readonly figure: number; readonly value: string | null }[];
}

/**
 * How to count the trail up to a step. A run of steps that keep rows of one another is one statement, in which a
 * `case` gives each row the number of the first step that drops it. A new one begins where a step says so itself, where
 * two steps stand on one, and where values over other rows need the rows that are left.
 */
export function planCounts(trail: CheckedTrail, stepId: string, binding: Binding): CountPlan {
  const watched = trail.definition.watched ?? [];
  const ids = watched.map((each) => watchedAt(trail, each));
  const figureIds = (step: string) =>
    watched.flatMap(({ aggregate }, figure) => {
      const id = ids[figure]?.get(step);
      return id === undefined ? [] : [{ figure, id, aggregate }];
    });
  const summed = (step: string) => figureIds(step).filter((each) => each.aggregate === 'sum');
  /** Whether all figures of a step are there at another one, which has the same rows. */
  const sameFigures = (step: string, other = '') =>
    summed(step).every((each) => summed(other).some(({ figure }) => figure === each.figure));
  const segments: Segment[] = [];
  const sums: CountPlan['sums'][number][] = [];
  const failed: CountPlan['failed'][number][] = [];
  for (const { id } of subTrail(trail.definition, stepId)) {
    const checked = checkedStep(trail, id);
    if (!checked) continue;
    const { step } = checked;
    const inputs = step.inputs.flatMap((each) => each ?? []);
    const [first] = inputs;
    const { counted } = kindOf(step);
    if (first !== undefined && (step.off || counted.by === 'rows of its first input')) {
      const open = segments.find((each) => each.last === first);
      const passing = step.off || counted.by !== 'rows of its first input' ? undefined : counted.passing;
      const goesOn = open?.take(checked, passing, binding);
      if (goesOn) continue;
      const next = new Segment(relationAfter(trail, first, binding), undefined);
      next.take(checked, passing, binding);
      segments.push(next);
    } else if (counted.by === 'rows of all inputs') sums.push({ step: id, of: inputs });
    else if (counted.by === 'as many rows as its first input' && sameFigures(id, first)) sums.push({ step: id, of: inputs.slice(0, 1) });
    else {
      segments.push(new Segment(relationAfter(trail, id, binding), id));
      const failures = counted.by === 'a statement of its own' && !step.off ? (counted.failures?.(checked, binding) ?? []) : [];
      for (const slot of new Set(failures.map((each) => each.slot))) {
        const input = step.inputs[slot];
        const own = failures.filter((each) => each.slot === slot);
        if (typeof input === 'string') failed.push(failedOf(id, relationAfter(trail, input, binding), own));
      }
    }
  }
  const distinct = subTrail(trail.definition, stepId).flatMap(({ id }) => {
    const own = figureIds(id).filter((each) => each.aggregate === 'distinct count');
    return own.length === 0
      ? []
      : [{ step: id, figures: own.map((each) => each.figure), relation: distinctOf(relationAfter(trail, id, binding), own) }];
  });
  return { segments: segments.map((each) => each.finished(summed)), sums, distinct, failed };
}

/** In how many of the rows something fails, and in how many each thing does. */
function failedOf(step: string, input: Relation, failures: readonly FailureAt[]): CountPlan['failed'][number] {
  const conditions = failures.map((each) => each.when);
  const { relation, expressions } = shared(input, conditions);
  const [first] = expressions;
  const any = expressions.length > 1 || !first ? either(...expressions) : first;
  const counts = [any, ...expressions].map((when, index) => ({ id: `failed ${index}`, when }));
  const group: Relation = { node: 'group', input: relation, keys: [], counts };
  return { step, fields: failures.map((each) => each.field), relation: prune(group, new Set(counts.map((each) => each.id))) };
}

/** How many different values some fields have. */
function distinctOf(input: Relation, fields: readonly { readonly figure: number; readonly id: FieldId }[]): Relation {
  const columns = columnsOf(input);
  const measures = fields.flatMap(({ figure, id }): readonly MeasureColumn[] => {
    const column = columns.find((each) => each.id === id);
    return column
      ? [{ id: `figure ${figure}`, name: `figure ${figure}`, type: whole, aggregate: 'distinct count', of: valueOf(column) }]
      : [];
  });
  const relation: Relation = { node: 'group', input, keys: [], counts: [], measures };
  return prune(relation, new Set(measures.map((each) => each.id)));
}

/** One statement in the making. */
class Segment {
  private readonly steps: CountedStep[] = [];
  private readonly conditions: Expression[] = [];
  private readonly failures: (CountedFailure & { readonly when: Expression })[] = [];
  /** The step whose rows it has come to; another one standing on the same begins anew. */
  last: string | undefined;

  constructor(
    private relation: Relation,
    arriving: string | undefined,
  ) {
    this.last = arriving;
    if (arriving !== undefined) this.steps.push({ step: arriving, stage: 0 });
  }

  /** Goes on to a step; false where its rows need a statement of their own. */
  take(
    checked: CheckedStep,
    passing: ((checked: CheckedStep, input: Relation, binding: Binding) => Passing) | undefined,
    binding: Binding,
  ): boolean {
    const step = checked.step.id;
    const passes = passing?.(checked, this.relation, binding);
    if (passes?.looksAtOtherRows && this.conditions.length > 0) return false;
    this.last = step;
    if (!passes) {
      this.relation = relationWhenOff(checked, this.relation);
      this.steps.push({ step, stage: 0 });
      return true;
    }
    const after = this.conditions.length;
    this.relation = passes.relation;
    this.failures.push(...passes.failures.map((each) => ({ ...each, step, after })));
    if (passes.keeps) this.conditions.push(passes.keeps);
    this.steps.push({ step, stage: passes.keeps ? this.conditions.length : 0 });
    return true;
  }

  /** `figuresAt` tells which figures can be summed at a step, and under which field. */
  finished(figuresAt: (step: string) => readonly { readonly figure: number; readonly id: FieldId }[]): CountSegment {
    const columns = columnsOf(this.relation);
    // A step that is switched off may hide a figure those before it have; the rows still carry it.
    const ids = new Map(this.steps.toReversed().flatMap(({ step }) => figuresAt(step).map(({ figure, id }) => [figure, id] as const)));
    const sums = [...ids].flatMap(([figure, id]) => {
      const column = columns.find((each) => each.id === id);
      return column ? [{ figure, type: aggregateType('sum', column.type), of: valueOf(column) }] : [];
    });
    const asked = [...this.conditions, ...this.failures.map((each) => each.when)];
    const { relation, expressions } = shared(this.relation, asked);
    const [conditions, failures] = [expressions.slice(0, this.conditions.length), expressions.slice(this.conditions.length)];
    const wanted = new Set([...conditions, ...failures, ...sums.map((each) => each.of)].flatMap(fieldsUsed));
    return {
      relation: prune(stagesOf(relation, conditions, failures, sums), wanted),
      steps: this.steps.map((each) => {
        const figures = figuresAt(each.step).map(({ figure }) => figure);
        return figures.length > 0 ? { ...each, figures } : each;
      }),
      failures: this.failures.map(({ when: _, ...each }) => each),
      sums: sums.map(({ figure, type }) => ({ figure, type })),
    };
  }
}

/** Each row gets the number of the first condition it fails (0 for none); per number, the rows and those where each failure holds. */
function stagesOf(
  input: Relation,
  conditions: readonly Expression[],
  failures: readonly Expression[],
  sums: readonly { readonly figure: number; readonly type: FieldType; readonly of: Expression }[],
): Relation {
  const branches = conditions.map((of, index) => ({ when: not(isTrue(of)), then: wholeLiteral(index + 1) }));
  const stage: Expression = branches.length === 0 ? wholeLiteral(0) : { op: 'case', type: whole, branches, otherwise: wholeLiteral(0) };
  return {
    node: 'group',
    input,
    keys: [{ id: 'stage', name: 'stage', type: whole, expression: stage }],
    counts: [{ id: 'rows' }, ...failures.map((when, index) => ({ id: `failed ${index + 1}`, when }))],
    measures: sums.map(({ figure, type, of }) => ({ id: `figure ${figure}`, name: `figure ${figure}`, type, aggregate: 'sum', of })),
  };
}

/** A group a statement gave: the number of a stage, how many rows, and in how many of them each failure held. */
export interface StageGroup {
  readonly stage: number;
  readonly rows: bigint;
  readonly failed: readonly bigint[];
  /** Sums of watched figures among its rows, in wire form. */
  readonly sums: readonly (string | null)[];
}

/** A row of a segment's statement as a group. */
export function stageGroup({ failures }: CountSegment, [stage, rows, ...counted]: readonly (string | null)[]): StageGroup {
  return {
    stage: Number(stage),
    rows: BigInt(rows ?? '0'),
    failed: counted.slice(0, failures.length).map((each) => BigInt(each ?? '0')),
    sums: counted.slice(failures.length),
  };
}

/** Counts per step from the groups each segment's statement gave. */
export function countsFrom(
  plan: CountPlan,
  groups: readonly (readonly StageGroup[])[],
  distinct: readonly (readonly (string | null)[])[] = [],
  failed: readonly (readonly (string | null)[])[] = [],
): readonly StepCount[] {
  const counts = new Map(
    plan.segments.flatMap((segment, index) => segmentCounts(segment, groups[index] ?? []).map((each) => [each.step, each] as const)),
  );
  for (const { step, of } of plan.sums) {
    const rows = of.reduce((sum, each) => sum + (counts.get(each)?.rows ?? 0n), 0n);
    const figures = of.length === 1 ? (counts.get(of[0] ?? '')?.figures ?? []) : [];
    counts.set(step, { step, rows, failed: 0n, fields: [], figures });
  }
  plan.distinct.forEach(({ step, figures }, at) => {
    const known = counts.get(step);
    const own = figures.map((figure, index) => ({ figure, value: distinct[at]?.[index] ?? '0' }));
    if (known) counts.set(step, { ...known, figures: [...known.figures, ...own] });
  });
  plan.failed.forEach(({ step, fields }, at) => {
    const known = counts.get(step);
    const [all, ...each] = (failed[at] ?? []).map((count) => BigInt(count ?? '0'));
    if (!known) return;
    const own = fields.map((field, index) => ({ field, failed: each[index] ?? 0n }));
    const others = known.fields.filter(({ field }) => !fields.includes(field));
    const together = own.map(({ field, failed: count }) => ({
      field,
      failed: count + (known.fields.find((before) => before.field === field)?.failed ?? 0n),
    }));
    counts.set(step, { ...known, failed: known.failed + (all ?? 0n), fields: [...others, ...together] });
  });
  return [...counts.values()];
}

function segmentCounts(segment: CountSegment, groups: readonly StageGroup[]): readonly StepCount[] {
  let left = groups.reduce((sum, each) => sum + each.rows, 0n);
  const failed = segment.failures.map(({ after, ...failure }, column) => ({
    ...failure,
    failed: groups.reduce((sum, { stage, failed: counts }) => (stage === 0 || stage > after ? sum + (counts[column] ?? 0n) : sum), 0n),
  }));
  let passed = 0;
  return segment.steps.map(({ step, stage, figures = [] }) => {
    if (stage > 0) passed = stage;
    if (stage > 0) left -= groups.find((each) => each.stage === stage)?.rows ?? 0n;
    const own = failed.filter((each) => each.step === step);
    return {
      step,
      rows: left,
      failed: own.find((each) => each.field === undefined)?.failed ?? 0n,
      fields: own.flatMap(({ field, failed: count }) => (field === undefined ? [] : [{ field, failed: count }])),
      figures: segment.sums.flatMap(({ figure, type }, column) =>
        figures.includes(figure) ? [{ figure, value: summed(type, groups, column, passed) }] : [],
      ),
    };
  });
}

/** The sum of a figure over the rows that have passed some stages; null where there is no value among them. */
function summed(type: FieldType, groups: readonly StageGroup[], column: number, passed: number): string | null {
  const parts = groups.filter(({ stage }) => stage === 0 || stage > passed).flatMap(({ sums }) => sums[column] ?? []);
  if (parts.length === 0) return null;
  if (type.kind === 'float') return String(parts.reduce((sum, each) => sum + Number(each), 0));
  const total = parts.map((each) => parseDecimal(each) ?? NOTHING).reduce(addDecimals);
  return formatDecimal(total);
}

const NOTHING = { digits: 0n, scale: 0 };
