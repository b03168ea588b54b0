import type { ActiveClause } from '../criteria';
import { clauseLines, outcomeFrom } from '../criteria';
import type { Expression } from '../expressions';
import { conjunction } from '../expressions';
import type { Schema } from '../fields';
import { yesno } from '../fields';
import { relationArriving } from '../planning';
import { refuse } from '../problem';
import type { Relation } from '../sql';
import { calculated, calculatedColumn, columnsOf } from '../sql';
import type { CriteriaStep, Grain, Questioning, WantedRows } from '../steps';
import { activeClausesOf, checkedOf, firstArriving } from '../steps';
import { checkedStep } from '../trail';
import type { OutcomeGroup } from './outcomes';
import type { QuestionContext } from './question';

/** A criteria step as questions about its clauses see it. */
export interface CriteriaAt {
  readonly step: CriteriaStep;
  readonly input: Relation;
  readonly schema: Schema;
  readonly grain: Grain;
  /** Clauses that ask something, groups included. */
  readonly lines: readonly ActiveClause[];
}

/** Throws a ProblemError where the step is none of criteria, or cannot run. */
export function criteriaAt({ trail, binding }: QuestionContext, stepId: string): CriteriaAt {
  const checked = checkedOf('criteria', checkedStep(trail, stepId));
  if (!checked) return refuse('step-gone', 'This criteria step is not in the dataset.', { step: stepId });
  const input = relationArriving(trail, stepId, binding);
  return { step: checked.step, input, ...firstArriving(checked), lines: activeClausesOf(checked, binding) };
}

/** The rows that arrive at a clause: those that the clauses before it let pass, where every one has to. */
export function relationAtClause(context: QuestionContext, stepId: string, clause: string): Relation {
  const { step, input, lines } = criteriaAt(context, stepId);
  if (step.head !== 'every one') return input;
  const own = step.clauses.findIndex((each) => clauseLines(step.head, [each]).some((line) => line.clause.id === clause));
  const before = new Set(step.clauses.slice(0, Math.max(own, 0)).map((each) => each.id));
  const conditions = lines.flatMap(({ line, condition }) => (before.has(line.clause.id) ? [condition] : []));
  return conditions.length === 0 ? input : { node: 'filter', input, condition: conjunction(conditions) };
}

/** A column of outcomes, read. */
export const outcomeOf = (id: string): Expression => ({ op: 'field', type: yesno, id });

/** Each condition computed once a row, as a column under the name of its clause. */
export function conditionColumns(input: Relation, clauses: readonly ActiveClause[]): Relation {
  const relation = calculated(
    input,
    clauses.map(({ line, condition }) => calculatedColumn(line.clause.id, condition)),
    undefined,
  );
  const columns = columnsOf(relation).filter(({ id }) => clauses.some(({ line }) => line.clause.id === id));
  return { node: 'choose', input: relation, columns };
}

/** Rows grouped by the outcomes of clauses. */
export function* outcomeGroups(input: Relation, clauses: readonly ActiveClause[]): Questioning<readonly OutcomeGroup[]> {
  const ids = clauses.map((each) => each.line.clause.id);
  const relation: Relation = {
    node: 'group',
    input: clauses.length > 0 ? conditionColumns(input, clauses) : input,
    keys: ids.map((id) => calculatedColumn(id, outcomeOf(id))),
    counts: [{ id: 'rows' }],
  };
  const rows = yield allOf(relation);
  return rows.map((row) => ({
    outcomes: new Map(ids.map((id, index) => [id, outcomeFrom(row[index])] as const)),
    rows: BigInt(row[ids.length] ?? '0'),
  }));
}

/** Every row and column of a relation. */
export const allOf = (relation: Relation): WantedRows => ({ relation, columns: columnsOf(relation) });
