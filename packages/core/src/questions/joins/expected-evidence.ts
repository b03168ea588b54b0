import { fieldsUsed, isNull } from '../../expressions';
import type { Relation } from '../../sql';
import { columnsOf, valueOf } from '../../sql';
import type { Questioning } from '../../steps';
import { joinCondition } from '../../steps';
import type { QuestionContext } from '../question';
import type { JoinPlace } from './join-at';
import { joinAt } from './join-at';

/** What a source expects of a join before anything is read: whole numbers as text, null where it cannot say. */
export interface ExpectedEvidence {
  /** Rows of each side. */
  readonly left: string | null;
  readonly right: string | null;
  /** Pairs of rows that meet. */
  readonly met: string | null;
  /** Rows of each side without a partner, nulls among them. */
  readonly leftAlone: string | null;
  readonly rightAlone: string | null;
}

/**
 * The ledger of a join as its source expects it, in the time of planning a statement; never exact. It is null
 * throughout where sides lie in different places.
 */
export function* expectedEvidence(context: QuestionContext, place: JoinPlace): Questioning<ExpectedEvidence> {
  const { checked, left, right } = joinAt(context, place);
  const on = joinCondition(checked, context.binding);
  const used = new Set(fieldsUsed(on));
  const join = (keeps: 'pairs' | 'left' | 'right'): Relation => ({ node: 'join', left, right, on, keeps });
  // A source sees that only rows without a partner are wanted where a column they would meet by has to be null.
  const alone = (keeps: 'left' | 'right', other: Relation): Relation | undefined => {
    const key = columnsOf(other).find((each) => used.has(each.id));
    return key && { node: 'filter', input: join(keeps), condition: isNull(valueOf(key)) };
  };
  const all = { left: yield* expected(left), right: yield* expected(right), met: yield* expected(join('pairs')) };
  return { ...all, leftAlone: yield* expected(alone('left', right)), rightAlone: yield* expected(alone('right', left)) };
}

function* expected(relation: Relation | undefined): Questioning<string | null> {
  if (!relation) return null;
  const rows = yield { relation, columns: columnsOf(relation).slice(0, 1), expected: true };
  return rows[0]?.[0] ?? null;
}
