import type { Expression, OrderBy, Window } from '../../expressions';
import { compare, wholeLiteral } from '../../expressions';
import { whole } from '../../fields';
import type { Relation } from '../../sql';
import { calculatedColumn, columnsOf, valueOf } from '../../sql';
import type { Questioning } from '../../steps';
import { joinCondition } from '../../steps';
import { allOf } from '../active-clauses';
import type { QuestionContext } from '../question';
import type { JoinPlace } from './join-at';
import { joinAt } from './join-at';

/** Rows whose kept partner the order does not decide alone, for several are the first by it. */
export interface PartnerTies {
  readonly rows: string;
}

/** Counts them where one partner is kept per row; none where all are. */
export function* partnerTies(context: QuestionContext, place: JoinPlace): Questioning<PartnerTies> {
  const { checked, left, right } = joinAt(context, place);
  const types = new Map(columnsOf(right).map((each) => [each.id, each.type]));
  const order = (checked.step.one ?? []).flatMap(({ field, descending }): readonly OrderBy[] => {
    const type = types.get(field);
    return type ? [{ of: valueOf({ id: field, type }), descending, nullsFirst: false }] : [];
  });
  if (order.length === 0) return { rows: '0' };
  const over = (name: 'rowNumber' | 'rank', partition: readonly Expression[], by: readonly OrderBy[]): Window => ({
    op: 'window',
    type: whole,
    name,
    of: [],
    partition,
    order: by,
  });
  const row = calculatedColumn('row met', over('rowNumber', [], []));
  const numbered: Relation = { node: 'calculate', input: left, fields: [row] };
  const met: Relation = { node: 'join', left: numbered, right, on: joinCondition(checked, context.binding), keeps: 'pairs' };
  const ranked = calculatedColumn('place of partner', over('rank', [valueOf(row)], order));
  const first: Relation = {
    node: 'filter',
    input: { node: 'calculate', input: met, fields: [ranked] },
    condition: compare('=', valueOf(ranked), wholeLiteral(1)),
  };
  const group: Relation = { node: 'group', input: first, keys: [{ ...row, expression: valueOf(row) }], counts: [{ id: 'firsts' }] };
  const several = compare('>', valueOf({ id: 'firsts', type: whole }), wholeLiteral(1));
  const [[rows] = []] = yield allOf({ node: 'group', input: group, keys: [], counts: [{ id: 'ties', when: several }] });
  return { rows: rows ?? '0' };
}
