import type { ActiveClause, Clause, Head, Outcome } from '../criteria';
import { passing } from '../criteria';
import type { Expression } from '../expressions';
import { all, compare, either, fieldsUsed, isNull, isTrue, not, smallSum, when, wholeLiteral } from '../expressions';
import { whole, yesno } from '../fields';
import type { CountColumn, Relation } from '../sql';
import { calculatedColumn as column, columnsOf } from '../sql';
import type { Questioning } from '../steps';
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
  const total = groups.reduce((sum, each) => sum + each.rows, 0n);
  const top = step.clauses.map((each) => each.id).filter((id) => present.has(id));
  const kept = groups.filter(({ outcomes }) => keeps(step.head, top, outcomes));
  return {
    rows: String(total),
    left: String(kept.reduce((sum, each) => sum + each.rows, 0n)),
    clauses: under(step.head, step.clauses),
  };
}

function keeps(head: Head, ids: readonly string[], outcomes: ReadonlyMap<string, Outcome>): boolean {
  const told = ids.map((id) => outcomes.get(id) ?? null);
  if (told.length === 0) return true;
  if (head === 'none') return told.every((each) => each !== true);
  return head === 'every one' ? told.every((each) => each === true) : told.includes(true);
}

/** Clauses under one head: those of the step, or of a group in it. */
interface Level {
  readonly head: Head;
  readonly ids: readonly string[];
}

/**
 * Many clauses: one pass with a few sums a clause. Of each head the number of the first clause that decides is told beside a
 * row, and whether it is the only one that does.
 */
function* summed({ step, input, lines }: CriteriaAt, single: readonly ActiveClause[]): Questioning<ClauseCounts> {
  const known = new Set(single.map((each) => each.line.clause.id));
  const conditions = new Map(lines.map(({ line }) => [line.clause.id, overColumns(line.clause, known)]));
  const conditionOf = (id: string) => conditions.get(id) ?? outcomeOf(id);
  const levels = levelsUnder(step.head, step.clauses, new Set(conditions.keys()));
  const flags = levels.flatMap(({ head, ids }) =>
    ids.map((id) => {
      const pass = passing(head, conditionOf(id));
      return column(decidingColumn(id), head === 'at least one' ? pass : not(pass));
    }),
  );
  const decided: Relation = { node: 'calculate', input: conditionColumns(input, single), fields: flags };
  const staged: Relation = { node: 'calculate', input: decided, fields: levels.flatMap(({ ids }, at) => stagesOf(ids, at)) };
  const stage = (at: number, than: '=' | '>', number: number) =>
    compare(than, { op: 'field', type: whole, id: stageColumn(at) }, wholeLiteral(number));
  const counts = levels.flatMap(({ head, ids }, at): readonly CountColumn[] =>
    ids.flatMap((id, index) => [
      { id: `alone ${id}`, when: passing(head, conditionOf(id)) },
      { id: `nulls ${id}`, when: isNull(conditionOf(id)) },
      { id: `left ${id}`, when: either(stage(at, '=', 0), stage(at, '>', index + 1)) },
      { id: `only ${id}`, when: all(stage(at, '=', index + 1), outcomeOf(singleColumn(at))) },
    ]),
  );
  const relation: Relation = {
    node: 'group',
    input: staged,
    keys: [],
    counts: [{ id: 'rows' }, { id: 'undecided', when: stage(0, '=', 0) }, ...counts],
  };
  const [row = []] = yield allOf(relation);
  const count = (id: string) => row[columnsOf(relation).findIndex((each) => each.id === id)] ?? '0';
  const heads = new Map(levels.flatMap(({ head, ids }) => ids.map((id) => [id, head] as const)));
  const clauses = lines.map(({ line }): ClauseCount => {
    const { id } = line.clause;
    const plain = { clause: id, alone: count(`alone ${id}`), nulls: count(`nulls ${id}`) };
    const only = count(`only ${id}`);
    return heads.get(id) === 'at least one' ? { ...plain, onlyThis: only } : { ...plain, left: count(`left ${id}`), givesBack: only };
  });
  const rows = count('rows');
  const undecided = count('undecided');
  return { rows, left: step.head === 'at least one' ? String(BigInt(rows) - BigInt(undecided)) : undecided, clauses };
}

const decidingColumn = (id: string) => `decides ${id}`;
const stageColumn = (level: number) => `stage ${level}`;
const singleColumn = (level: number) => `single ${level}`;

/** The step's own clauses first, then those of each group, as far as they ask something. */
function levelsUnder(head: Head, clauses: readonly Clause[], present: ReadonlySet<string>): readonly Level[] {
  const own = clauses.filter((each) => present.has(each.id));
  return [
    { head, ids: own.map((each) => each.id) },
    ...own.flatMap((each) => (each.kind === 'group' ? levelsUnder(each.head, each.clauses, present) : [])),
  ];
}

/** The number of the first clause that decides, counted from 1; 0 where none does. And whether no other does. */
function stagesOf(ids: readonly string[], level: number) {
  const deciding = ids.map((id) => outcomeOf(decidingColumn(id)));
  const first: Expression =
    deciding.length === 0
      ? wholeLiteral(0)
      : {
          op: 'case',
          type: whole,
          branches: deciding.map((each, index) => ({ when: each, then: wholeLiteral(index + 1) })),
          otherwise: wholeLiteral(0),
        };
  const many = deciding
    .map((each) => when(each, wholeLiteral(1), wholeLiteral(0)))
    .reduce((left, right) => smallSum('+', left, right), wholeLiteral(0));
  return [column(stageColumn(level), first), column(singleColumn(level), compare('=', many, wholeLiteral(1)))];
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
