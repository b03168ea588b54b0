import type { ActiveClause, Clause, Head, Outcome } from '../criteria';
import { outcomeFrom, passing } from '../criteria';
import type { Expression } from '../expressions';
import { compare, fieldsUsed, isNull, isTrue, not, smallSum, when, wholeLiteral } from '../expressions';
import { whole, yesno } from '../fields';
import type { Column, CountColumn, Relation } from '../sql';
import { calculatedColumn as column, columnsOf } from '../sql';
import type { CriteriaStep, Questioning, WireRow } from '../steps';
import type { CriteriaAt } from './active-clauses';
import { allOf, conditionColumns, criteriaAt, outcomeGroups, outcomeOf } from './active-clauses';
import type { Excluding } from './excluding';
import { excluding } from './excluding';
import type { ClauseCount } from './outcomes';
import { countsUnder, withGroups } from './outcomes';
import type { QuestionContext } from './question';

/** How many rows each clause of a criteria step passes, and where none is left, why. */
export interface ClauseCounts {
  /** Rows that arrive, and rows that are left. */
  readonly rows: string;
  readonly left: string;
  readonly clauses: readonly ClauseCount[];
  readonly excluding?: Excluding;
}

/** Up to so many single clauses, rows are grouped by what all of them say; each further one could double the groups. */
export const GROUPED_CLAUSES = 10;

export function* clauseCounts(context: QuestionContext, stepId: string): Questioning<ClauseCounts> {
  const asked = criteriaAt(context, stepId);
  const single = asked.lines.filter((each) => each.line.clause.kind !== 'group');
  const counts = single.length <= GROUPED_CLAUSES ? yield* grouped(asked, single) : yield* summed(asked, single);
  const nothingLeft = counts.left === '0' && counts.rows !== '0' && asked.step.head !== 'at least one';
  if (!nothingLeft) return counts;
  const found = yield* excluding(asked);
  return found ? { ...counts, excluding: found } : counts;
}

/** Few clauses: what all of them say together tells every count. */
function* grouped({ step, input, lines }: CriteriaAt, single: readonly ActiveClause[]): Questioning<ClauseCounts> {
  const groups = withGroups(
    lines.map((each) => each.line),
    yield* outcomeGroups(input, single),
  );
  const present = new Set(lines.map((each) => each.line.clause.id));
  const under = (head: Head, clauses: readonly Clause[]): readonly ClauseCount[] => {
    const ids = clauses.map((each) => each.id).filter((id) => present.has(id));
    const inner = clauses.flatMap((each) => (each.kind === 'group' && present.has(each.id) ? under(each.head, each.clauses) : []));
    return [...countsUnder(head, ids, groups), ...inner];
  };
  const total = groups.reduce((all, each) => all + each.rows, 0n);
  const top = step.clauses.map((each) => each.id).filter((id) => present.has(id));
  const kept = groups.filter(({ outcomes }) => keeps(step.head, top, outcomes));
  return {
    rows: String(total),
    left: String(kept.reduce((all, each) => all + each.rows, 0n)),
    clauses: under(step.head, step.clauses),
  };
}

function keeps(head: Head, ids: readonly string[], outcomes: ReadonlyMap<string, Outcome>): boolean {
  const all = ids.map((id) => outcomes.get(id) ?? null);
  if (all.length === 0) return true;
  if (head === 'none') return all.every((each) => each !== true);
  return head === 'every one' ? all.every((each) => each === true) : all.includes(true);
}

/**
 * Many clauses: one pass with two sums a clause, and the rows grouped by the first clause that decides and whether it
 * is the only one that does. A hundred clauses give at most two hundred groups.
 */
function* summed({ step, input, lines }: CriteriaAt, single: readonly ActiveClause[]): Questioning<ClauseCounts> {
  const { head } = step;
  const conditions = new Map(
    lines.map(({ line }) => [line.clause.id, overColumns(line.clause, new Set(single.map((each) => each.line.clause.id)))]),
  );
  const top = lines.filter((each) => each.line.within.length === 0).map((each) => each.line.clause.id);
  const decides = (id: string): Expression => {
    const pass = passing(head, conditions.get(id) ?? outcomeOf(id));
    return head === 'at least one' ? pass : not(pass);
  };
  const flags = top.map((id) => column(`decides ${id}`, decides(id)));
  const computed = conditionColumns(input, single);
  const level: Relation = { node: 'calculate', input: computed, fields: flags };
  const deciding = flags.map((each) => outcomeOf(each.id));
  const stage: Expression = {
    op: 'case',
    type: whole,
    branches: deciding.map((each, index) => ({ when: each, then: wholeLiteral(index + 1) })),
    otherwise: wholeLiteral(0),
  };
  const many = deciding
    .map((each) => when(each, wholeLiteral(1), wholeLiteral(0)))
    .reduce((left, right) => smallSum('+', left, right), wholeLiteral(0));
  const counts: CountColumn[] = lines.flatMap(({ line }) => {
    const condition = conditions.get(line.clause.id) ?? outcomeOf(line.clause.id);
    return [
      { id: `alone ${line.clause.id}`, when: passing(line.head, condition) },
      { id: `nulls ${line.clause.id}`, when: isNull(condition) },
    ];
  });
  const relation: Relation = {
    node: 'group',
    input: level,
    keys: [column('stage', stage), column('single', compare('=', many, wholeLiteral(1)))],
    counts: [{ id: 'rows' }, ...counts],
  };
  return readSums(step, lines, top, columnsOf(relation), yield allOf(relation));
}

function readSums(
  step: CriteriaStep,
  lines: readonly ActiveClause[],
  top: readonly string[],
  columns: readonly Column[],
  rows: readonly WireRow[],
): ClauseCounts {
  const groups = rows.map((row) => ({
    stage: Number(row[0] ?? '0'),
    single: outcomeFrom(row[1]) === true,
    rows: BigInt(row[2] ?? '0'),
    row,
  }));
  const total = (counted: (group: (typeof groups)[number]) => boolean) =>
    groups.reduce((all, each) => (counted(each) ? all + each.rows : all), 0n);
  const sumOf = (id: string) => {
    const at = columns.findIndex((each) => each.id === id);
    return String(groups.reduce((all, { row }) => all + BigInt(row[at] ?? '0'), 0n));
  };
  const lastly = step.head === 'at least one' ? total((each) => each.stage > 0) : total((each) => each.stage === 0);
  const clauses = lines.map(({ line }): ClauseCount => {
    const { id } = line.clause;
    const plain = { clause: id, alone: sumOf(`alone ${id}`), nulls: sumOf(`nulls ${id}`) };
    const at = top.indexOf(id) + 1;
    if (at === 0) return plain;
    const only = String(total((each) => each.stage === at && each.single));
    if (step.head === 'at least one') return { ...plain, onlyThis: only };
    return { ...plain, left: String(total((each) => each.stage === 0 || each.stage > at)), givesBack: only };
  });
  return { rows: String(total(() => true)), left: String(lastly), clauses };
}

/** The clause as a condition over the columns its single clauses were computed into. */
function overColumns(clause: Clause, present: ReadonlySet<string>): Expression {
  if (clause.kind !== 'group') return outcomeOf(clause.id);
  const items = clause.clauses.flatMap((each) => {
    const inside = overColumns(each, present);
    return each.off || (each.kind !== 'group' && !present.has(each.id)) || (each.kind === 'group' && fieldsUsed(inside).length === 0)
      ? []
      : [inside];
  });
  const under = clause.head === 'none' ? items.map((each) => not(isTrue(each))) : items;
  const [only] = under;
  if (under.length === 1 && only) return only;
  return { op: clause.head === 'at least one' ? 'or' : 'and', type: yesno, items: under };
}
