import { all, compare, disjunction, isNull, not, wholeLiteral } from '../expressions';
import { fieldById, whole } from '../fields';
import type { Binding } from '../parameters';
import { refuse } from '../problem';
import type { CalculatedColumn, Column, Relation } from '../sql';
import { calculatedColumn, columnsOf, valueOf } from '../sql';
import type { CheckedOf, ChosenRows } from '../steps';
import { metRows, partnerRows, sideColumns } from '../steps';
import { metBy } from './outcome-key';

/** What becomes of rows at a join: a line of its ledger. */
export const JOIN_OUTCOMES = ['one', 'several', 'left alone', 'left null', 'right alone', 'right null'] as const;
export type JoinOutcome = (typeof JOIN_OUTCOMES)[number];

/** Column of how many partners a row has. */
export const PARTNERS_COLUMN = 'partners';

/** The rows of one line of a join's ledger, as they arrive. */
export function outcomeRows(join: CheckedOf<'join'>, outcome: JoinOutcome, inputs: readonly Relation[], binding: Binding): ChosenRows {
  const ofLeft = !outcome.startsWith('right');
  const sides = sideColumns(join.step);
  const keys = keysOf(join, inputs, ofLeft);
  const columns = shownColumns(join, ofLeft, keys);
  if (outcome === 'one' || outcome === 'several') return withPartners(join, outcome, inputs, binding, columns);
  const met = metRows(join, inputs, binding, ofLeft ? 'left' : 'right');
  const alone = isNull(valueOf(ofLeft ? sides.right : sides.left));
  const [left, right] = inputs;
  const side = ofLeft ? left : right && partnerRows(join, right);
  const absent = side ? metBy(join, ofLeft ? 'left' : 'right', side, binding).map(isNull) : [];
  const noKey = absent.length > 0 ? disjunction(absent) : undefined;
  const wantsNull = outcome.endsWith('null');
  if (wantsNull && !noKey)
    return refuse('outcome-unsuited', 'No row of this side can be without what it is met by.', { step: join.step.id });
  const condition = noKey ? all(alone, wantsNull ? noKey : not(noKey)) : alone;
  return { relation: { node: 'filter', input: met, condition }, columns };
}

/** Rows of the first side that meet some, once each, with how many they meet. */
function withPartners(
  join: CheckedOf<'join'>,
  outcome: 'one' | 'several',
  [left, right]: readonly Relation[],
  binding: Binding,
  columns: readonly Column[],
): ChosenRows {
  if (!left || !right) throw new RangeError('two inputs meet');
  const own: CalculatedColumn = calculatedColumn('row met', {
    op: 'window',
    type: whole,
    name: 'rowNumber',
    of: [],
    partition: [],
    order: [],
  });
  const met = metRows(join, [{ node: 'calculate', input: left, fields: [own] }, right], binding, 'pairs');
  const over = { op: 'window', type: whole, of: [], partition: [valueOf(own)], order: [] } as const;
  const count = { ...calculatedColumn(PARTNERS_COLUMN, { ...over, name: 'countRows' }) };
  const place = calculatedColumn('place met', { ...over, name: 'rowNumber' });
  const counted: Relation = { node: 'calculate', input: met, fields: [count, place] };
  const many = compare(outcome === 'one' ? '=' : '>', valueOf(count), wholeLiteral(1));
  const relation: Relation = { node: 'filter', input: counted, condition: all(compare('=', valueOf(place), wholeLiteral(1)), many) };
  const shown = outcome === 'several' ? [{ id: count.id, name: count.name, type: count.type }, ...columns] : columns;
  return { relation, columns: shown };
}

/** What rows of a side are met by, where that is plain fields of it. */
function keysOf({ checked }: CheckedOf<'join'>, inputs: readonly Relation[], ofLeft: boolean): readonly Column[] {
  const sides = checked.pairs.flatMap((each) => (each.sides ? [ofLeft ? each.sides.left : each.sides.right] : []));
  const own = new Set(columnsOf(inputs[ofLeft ? 0 : 1] ?? { node: 'landed', handle: '', columns: [] }).map((each) => each.id));
  return sides.flatMap((each) =>
    each.op === 'field' && (!ofLeft || own.has(each.id)) ? [{ id: each.id, name: each.id, type: each.type }] : [],
  );
}

const MOST_COLUMNS = 60;

/** What they are met by first, then what is handed on of them, else what there is. */
function shownColumns(join: CheckedOf<'join'>, ofLeft: boolean, keys: readonly Column[]): readonly Column[] {
  const { step, schema, arriving } = join;
  const arrived = arriving[ofLeft ? 0 : 1]?.schema.fields ?? [];
  const own = ofLeft
    ? arrived
    : step.fields.flatMap(({ id, from }) => {
        const field = arrived.find((each) => each.id === from);
        return field ? [{ ...field, id, forUseOnly: !step.taken.includes(id) }] : [];
      });
  const handed = own.filter((each) => !each.forUseOnly);
  const first = keys.flatMap(({ id }) => own.find((each) => each.id === id) ?? fieldById(schema, id) ?? []);
  const shown = [...new Map([...first, ...(handed.length > 0 ? handed : own)].map((each) => [each.id, each])).values()];
  return shown.slice(0, MOST_COLUMNS).map(({ id, name, type }) => ({ id, name, type }));
}
