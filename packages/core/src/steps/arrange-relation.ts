import type { Expression, OrderBy, Window } from '../expressions';
import { blanksAsNull, compare, conjunction, evaluate, windowValues } from '../expressions';
import type { Field } from '../fields';
import { whole } from '../fields';
import type { Binding } from '../parameters';
import { refuse } from '../problem';
import type { Column, Relation } from '../sql';
import { calculatedColumn, columnsOf, valueOf } from '../sql';
import type { Value } from '../values';
import { ofWhole } from '../values';
import type { ArrangeStep } from './arrangement';
import type { CheckedArrange } from './arrange-check';
import { isBelowOne } from './arrange-check';
import type { Passing } from './kind';
import { rowOf } from './rows';
import type { Checked, Rows } from './step';

type Own = Checked<ArrangeStep, CheckedArrange>;

/** Rows with the places that decide about them. */
interface Placed {
  readonly relation: Relation;
  /** 1 for the first of those that are alike. */
  readonly distinct: Column | undefined;
  /** The place among the first, and how many of them are kept. */
  readonly first: { readonly column: Column; readonly count: bigint } | undefined;
}

/** How many rows are kept; undefined for all of them. Throws a ProblemError for none. */
function countOf({ step, checked }: Pick<Own, 'step' | 'checked'>, binding: Binding): bigint | undefined {
  if (!checked.count) return undefined;
  const value = evaluate(blanksAsNull(checked.count, binding.blanks), rowOf(new Map(), binding));
  if (isBelowOne(value))
    refuse('count-below-one', 'The first rows are at least one.', { step: step.id, field: 'first' }, 'a whole number from 1 on');
  return value !== null && typeof value === 'object' ? value.digits : undefined;
}

const by = (field: Field, descending = false, nullsFirst = false): OrderBy => ({ of: valueOf(field), descending, nullsFirst });

/** The order as said, and behind it a key that decides where it does not. */
const said = ({ sort }: CheckedArrange) => sort.map((each) => by(each.field, each.descending, each.nullsFirst));
const full = (checked: CheckedArrange) => [...said(checked), ...checked.ties.map((each) => by(each))];

const placeOf = (name: 'rowNumber' | 'rank', partition: readonly Expression[], order: readonly OrderBy[]): Window => ({
  op: 'window',
  type: whole,
  name,
  of: [],
  partition,
  order,
});

/** The windows that decide, as columns: of all rows, and of those that are the first of their kind. */
function windowsOf({ step, checked }: Pick<Own, 'step' | 'checked'>) {
  const distinct =
    checked.distinct && calculatedColumn(`${step.id} alike`, placeOf('rowNumber', checked.distinct.map(valueOf), full(checked)));
  const ties = step.first?.ties === true;
  const among = distinct ? [compare('=', valueOf(distinct), { op: 'literal', type: whole, value: ofWhole(1n) })] : [];
  const partition = [...among, ...checked.per.map(valueOf)];
  const first = calculatedColumn(
    `${step.id} place`,
    placeOf(ties && checked.sort.length > 0 ? 'rank' : 'rowNumber', partition, ties ? said(checked) : full(checked)),
  );
  return { distinct, first };
}

export function placedRows(own: Pick<Own, 'step' | 'checked'>, input: Relation, binding: Binding): Placed {
  const count = countOf(own, binding);
  const { distinct, first } = windowsOf(own);
  const told: Relation = distinct ? { node: 'calculate', input, fields: [distinct] } : input;
  if (count === undefined) return { relation: told, distinct, first: undefined };
  return { relation: { node: 'calculate', input: told, fields: [first] }, distinct, first: { column: first, count } };
}

function keeping({ distinct, first }: Placed): readonly Expression[] {
  const number = (value: bigint): Expression => ({ op: 'literal', type: whole, value: ofWhole(value) });
  return [
    ...(distinct ? [compare('=', valueOf(distinct), number(1n))] : []),
    ...(first ? [compare('<=', valueOf(first.column), number(first.count))] : []),
  ];
}

/** Every row that arrives with its places, and which are kept. */
export function arrangePassing(own: Own, input: Relation, binding: Binding): Passing {
  const placed = placedRows(own, input, binding);
  const kept = keeping(placed);
  return {
    relation: placed.relation,
    failures: [],
    looksAtOtherRows: kept.length > 0,
    ...(kept.length > 0 ? { keeps: conjunction(kept) } : {}),
  };
}

/** What the step stands for. Which order the rows are shown in is no part of it. */
export function arrangeRelation(own: Own, input: Relation, binding: Binding): Relation {
  const { step, checked, title } = own;
  const arrived = new Map(columnsOf(input).map((each) => [each.id, each]));
  const columns = checked.fields.flatMap(({ id }) => arrived.get(id) ?? []);
  return { node: 'choose', name: title, input: keptRows(own, step, checked, input, binding), columns };
}

function keptRows(own: Own, step: ArrangeStep, checked: CheckedArrange, input: Relation, binding: Binding): Relation {
  const plain = step.first !== null && !step.first.ties && step.first.per.length === 0 && !step.distinct;
  const count = plain ? countOf(own, binding) : undefined;
  // Engines find the first rows of all without numbering every one.
  if (count !== undefined) {
    const order = full(checked);
    return { node: 'limit', input, count: Number(count), ...(order.length > 0 ? { order } : {}) };
  }
  const placed = placedRows(own, input, binding);
  const kept = keeping(placed);
  return kept.length === 0 ? input : { node: 'filter', input: placed.relation, condition: conjunction(kept) };
}

/** The rows in core, in the order they are kept by. */
export function arrangeRows(own: Own, rows: Rows, binding: Binding): Rows {
  const { checked } = own;
  const count = countOf(own, binding);
  const windows = windowsOf(own);
  const { distinct } = windows;
  const some = distinct ? kept(rows, distinct, 1n, binding) : rows;
  // Only the first of those alike are left, so that they need no partition of their own.
  const { op, type, name, of, order, partition } = windows.first.expression as Window;
  const first = {
    id: windows.first.id,
    expression: { op, type, name, of, order, partition: distinct ? partition.slice(1) : partition } as Window,
  };
  const left = count === undefined ? some : kept(some, first, count, binding);
  return left.map((row) => new Map(checked.fields.map(({ id }) => [id, row.get(id) ?? null] as const)));
}

function kept(rows: Rows, { expression }: { readonly expression: Expression }, count: bigint, binding: Binding): Rows {
  const places: readonly Value[] = windowValues(
    expression as Window,
    rows.map((row) => rowOf(row, binding)),
  );
  return rows.filter((_row, at) => {
    const place = places[at];
    return place !== null && typeof place === 'object' && place.digits <= count;
  });
}
