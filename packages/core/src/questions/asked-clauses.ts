import type { Clause, ClauseLine, Head } from '../criteria';
import { clauseLines } from '../criteria';
import type { Expression } from '../expressions';
import { isTrue, not } from '../expressions';
import type { Schema } from '../fields';
import { yesno } from '../fields';
import { relationAfter } from '../planning';
import { refuse } from '../problem';
import type { CalculatedColumn, Relation } from '../sql';
import { calculated, columnsOf } from '../sql';
import type { CriteriaStep } from '../steps';
import { clauseCondition } from '../steps';
import { checkedStep } from '../trail';
import type { Outcome, OutcomeGroup } from './outcomes';
import type { QuestionContext, Questioning, WantedRows } from './question';

/** A clause that asks something, as a condition. */
export interface Asks {
  readonly line: ClauseLine;
  readonly condition: Expression;
}

/** A criteria step as questions about its clauses see it. */
export interface AskedStep {
  readonly step: CriteriaStep;
  readonly input: Relation;
  readonly schema: Schema;
  /** Lines of clauses that ask something, groups included. */
  readonly lines: readonly Asks[];
}

/** Throws a ProblemError where the step is none of criteria, or cannot run. */
export function askedStep({ trail, binding, catalogue }: QuestionContext, stepId: string): AskedStep {
  const step = checkedStep(trail, stepId)?.step;
  const [before] = step?.inputs ?? [];
  if (step?.kind !== 'criteria' || before === undefined)
    return refuse('step-gone', 'This criteria step is not in the dataset.', { step: stepId });
  const { parameters, calendar } = trail.definition;
  const schema = checkedStep(trail, before)?.schema ?? { fields: [] };
  const context = { parameters, calendar, catalogue, binding };
  const conditionOf = (clause: Clause) => clauseCondition(clause, schema, context);
  const off = new Set<string>();
  const lines = clauseLines(step.head, step.clauses).flatMap((line): Asks[] => {
    const { clause, within } = line;
    if (clause.off || within.some((each) => off.has(each))) {
      off.add(clause.id);
      return [];
    }
    const condition = conditionOf(clause);
    return condition ? [{ line, condition }] : [];
  });
  return { step, input: relationAfter(trail, before, binding, catalogue), schema, lines };
}

/** Whether a clause lets a row pass, as a condition over the columns of its outcome. */
export function passing(head: Head, condition: Expression): Expression {
  return head === 'none' ? not(isTrue(condition)) : isTrue(condition);
}

/** A column calculated from a condition or a count. */
export const column = (id: string, expression: Expression): CalculatedColumn => ({ id, name: id, type: expression.type, expression });
/** A column of outcomes, read. */
export const outcomeOf = (id: string): Expression => ({ op: 'field', type: yesno, id });

/** Each condition computed once a row, as a column under the name of its clause. */
export function conditionColumns(input: Relation, asks: readonly Asks[]): Relation {
  const relation = calculated(
    input,
    asks.map(({ line, condition }) => column(line.clause.id, condition)),
    undefined,
  );
  const columns = columnsOf(relation).filter(({ id }) => asks.some(({ line }) => line.clause.id === id));
  return { node: 'choose', input: relation, columns };
}

/** Rows grouped by the outcomes of clauses. */
export function* outcomeGroups(input: Relation, asks: readonly Asks[]): Questioning<readonly OutcomeGroup[]> {
  const ids = asks.map((each) => each.line.clause.id);
  const relation: Relation = {
    node: 'group',
    input: asks.length > 0 ? conditionColumns(input, asks) : input,
    keys: ids.map((id) => column(id, outcomeOf(id))),
    counts: [{ id: 'rows' }],
  };
  const rows = yield allOf(relation);
  return rows.map((row) => ({
    outcomes: new Map(ids.map((id, index) => [id, outcome(row[index])] as const)),
    rows: BigInt(row[ids.length] ?? '0'),
  }));
}

/** An engine's yes or no. */
export const outcome = (cell: string | null | undefined): Outcome =>
  cell === null || cell === undefined ? null : cell === 'true' || cell === 't';

/** Every row and column of a relation. */
export const allOf = (relation: Relation): WantedRows => ({ relation, columns: columnsOf(relation) });
