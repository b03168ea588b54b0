import type { ClauseLine, Head, Outcome } from '../criteria';
import { passes } from '../criteria';

/** Rows that are alike in what the clauses say of them. */
export interface OutcomeGroup {
  readonly outcomes: ReadonlyMap<string, Outcome>;
  readonly rows: bigint;
}

/** Counts of one clause. Whole numbers as text, for they may be larger than a JavaScript number. */
export interface ClauseCount {
  readonly clause: string;
  /** Rows that arrive and that this clause alone would keep. */
  readonly alone: string;
  /** Rows of which it cannot be told because of null. */
  readonly nulls: string;
  /** Under "every one" and "none": rows that are left after this clause and those before it. */
  readonly left?: string;
  /** Under "every one" and "none": rows that would come back without it. */
  readonly givesBack?: string;
  /** Under "at least one": rows that only this clause keeps. */
  readonly onlyThis?: string;
}

/** What clauses under a head say together: the three-valued logic of SQL. */
export function together(head: Head, outcomes: readonly Outcome[]): Outcome {
  if (head === 'none') return outcomes.every((each) => each !== true);
  const decisive = head === 'at least one';
  if (outcomes.includes(decisive)) return decisive;
  return outcomes.includes(null) ? null : !decisive;
}

const sum = (groups: readonly OutcomeGroup[], counted: (group: OutcomeGroup) => boolean) =>
  String(groups.reduce((total, each) => (counted(each) ? total + each.rows : total), 0n));

/** The counts of clauses that stand side by side under one head. */
export function countsUnder(head: Head, clauses: readonly string[], groups: readonly OutcomeGroup[]): readonly ClauseCount[] {
  const pass = (group: OutcomeGroup, clause: string) => passes(head, group.outcomes.get(clause) ?? null);
  return clauses.map((clause, index): ClauseCount => {
    const others = clauses.filter((each) => each !== clause);
    const plain = {
      clause,
      alone: sum(groups, (group) => pass(group, clause)),
      nulls: sum(groups, ({ outcomes }) => (outcomes.get(clause) ?? null) === null),
    };
    if (head === 'at least one')
      return { ...plain, onlyThis: sum(groups, (group) => pass(group, clause) && !others.some((each) => pass(group, each))) };
    return {
      ...plain,
      left: sum(groups, (group) => clauses.slice(0, index + 1).every((each) => pass(group, each))),
      givesBack: sum(groups, (group) => !pass(group, clause) && others.every((each) => pass(group, each))),
    };
  });
}

/** The groups with an outcome for every line, told from the outcomes of the single clauses. */
export function withGroups(lines: readonly ClauseLine[], groups: readonly OutcomeGroup[]): readonly OutcomeGroup[] {
  const nested = lines.filter((each) => each.clause.kind === 'group').toReversed();
  return groups.map(({ outcomes, rows }) => {
    const known = new Map(outcomes);
    for (const { clause } of nested) {
      if (clause.kind !== 'group') continue;
      const inside = clause.clauses.flatMap(({ id }) => (known.has(id) ? [known.get(id) ?? null] : []));
      if (inside.length > 0) known.set(clause.id, together(clause.head, inside));
    }
    return { outcomes: known, rows };
  });
}
