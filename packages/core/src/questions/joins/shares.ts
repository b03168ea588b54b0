import { arithmetic, compare, conjunction, fieldText, wholeLiteral } from '../../expressions';
import type { FieldId } from '../../fields';
import { fieldById, whole } from '../../fields';
import { comparedPair } from '../../joins';
import { refuse } from '../../problem';
import type { MeasureColumn, Relation } from '../../sql';
import { columnsOf, valueOf } from '../../sql';
import { partnerFields } from '../../steps';
import type { Questioning } from '../../steps';
import { allOf } from '../active-clauses';
import type { QuestionContext } from '../question';
import type { JoinPlace } from './join-at';
import { countedBy, countOf, equalValues, joinAt, keyColumns, large, present } from './join-at';

/** Fields two sides could meet by, by their ids. */
export type PairedFields = readonly { readonly left: FieldId; readonly right: FieldId }[];

/** How many distinct values each side has, how many stand on both, and the rows that would meet. */
export interface Share {
  readonly left: string;
  readonly right: string;
  readonly both: string;
  readonly become: string;
}

/** The share of values found on the other side, measured on all rows, for each of some proposals; one statement for all. */
export function* shares(context: QuestionContext, place: JoinPlace, proposals: readonly PairedFields[]): Questioning<readonly Share[]> {
  const parts = proposals.map((fields, at) => measured(context, place, fields, at));
  if (parts.length === 0) return [];
  const [first] = parts;
  const relation: Relation =
    parts.length === 1 && first
      ? first
      : { node: 'union', inputs: parts, columns: columnsOf(first as Relation).map((each) => ({ ...each, id: `told ${each.id}` })) };
  const rows = yield allOf(relation);
  return proposals.map((_each, at): Share => {
    const [, left = '0', right = '0', both = '0', become = '0'] = rows.find((row) => row[0] === String(at)) ?? [];
    return { left: left ?? '0', right: right ?? '0', both: both ?? '0', become: become ?? '0' };
  });
}

function measured(context: QuestionContext, place: JoinPlace, fields: PairedFields, at: number): Relation {
  const join = joinAt(context, place, { pairs: [] });
  const lefts = join.checked.arriving[0]?.schema ?? { fields: [] };
  const rights = { fields: partnerFields(join.checked.step, join.checked.arriving[1]?.schema ?? { fields: [] }) };
  const pairs = fields.map((each, index) => {
    const [left, right] = [fieldById(lefts, each.left), fieldById(rights, each.right)];
    if (!left || !right)
      return refuse('field-gone', 'A field that is proposed is not there.', { step: place.step }, 'fields of both sides');
    return comparedPair({ id: `tried ${index}`, left: fieldText(left), right: fieldText(right) });
  });
  const tried = joinAt(context, place, { pairs });
  const equal = equalValues(tried) ?? [];
  const [a, b] = [
    keyColumns(
      equal.map((each) => each.left),
      'left',
    ),
    keyColumns(
      equal.map((each) => each.right),
      'right',
    ),
  ];
  const conditions = a.map((each, index) => compare('=', valueOf(each), valueOf(b[index] ?? each)));
  const on = conjunction(conditions);
  // Null is no value that could be found on the other side.
  const some = (relation: Relation, keys: typeof a): Relation => {
    const condition = conjunction(keys.map((each) => present(valueOf(each))));
    return { node: 'filter', input: relation, condition };
  };
  const met: Relation = {
    node: 'join',
    left: some(countedBy(tried.left, a, 'n'), a),
    right: some(countedBy(tried.right, b, 'm'), b),
    on,
    keeps: 'both',
  };
  const counted = (id: string, of: Parameters<typeof present>[0]): MeasureColumn => ({ ...large(id), aggregate: 'count', of });
  const pairsOf = arithmetic('*', countOf('n'), countOf('m'));
  return {
    node: 'group',
    input: met,
    keys: [],
    counts: [],
    measures: [
      { id: 'at', name: 'at', type: whole, aggregate: 'least', of: wholeLiteral(at) },
      counted('left', countOf('n')),
      counted('right', countOf('m')),
      counted('both', pairsOf),
      { ...large('become'), aggregate: 'sum', of: pairsOf },
    ],
  };
}
