import type { Blank, Expression } from '../expressions';
import { applyBlanks, isTrue, not } from '../expressions';
import type { CheckedClause } from './check';
import type { ClauseLine, Head } from './clause';
import { clauseLines } from './clause';

/** A clause that asks something, as a condition with blanks applied. */
export interface ActiveClause {
  readonly line: ClauseLine;
  readonly condition: Expression;
}

/** The clauses that ask something, groups and what stands in them too, in reading order. */
export function activeClauses(head: Head, checked: readonly CheckedClause[], blanks: ReadonlyMap<string, Blank>): readonly ActiveClause[] {
  const expressions = new Map(checked.flatMap(within).map(({ clause, expression }) => [clause.id, expression]));
  const off = new Set<string>();
  const lines = clauseLines(
    head,
    checked.map((each) => each.clause),
  );
  return lines.flatMap((line): readonly ActiveClause[] => {
    const { clause, within: groups } = line;
    if (clause.off || groups.some((each) => off.has(each))) {
      off.add(clause.id);
      return [];
    }
    const expression = expressions.get(clause.id);
    const condition = expression && applyBlanks(expression, blanks);
    return condition ? [{ line, condition }] : [];
  });
}

const within = (checked: CheckedClause): readonly CheckedClause[] => [checked, ...(checked.inner ?? []).flatMap(within)];

/** What a clause says of a row; null where it asked a null. */
export type Outcome = boolean | null;

/** Whether a clause that stands under a head lets a row pass, as far as it is asked. */
export const passes = (head: Head, outcome: Outcome): boolean => (head === 'none' ? outcome !== true : outcome === true);

/** The same as a condition. */
export const passing = (head: Head, condition: Expression): Expression => (head === 'none' ? not(isTrue(condition)) : isTrue(condition));

/** A yes or no in wire form. */
export const outcomeFrom = (cell: string | null | undefined): Outcome => (cell === null || cell === undefined ? null : cell === 'true');
