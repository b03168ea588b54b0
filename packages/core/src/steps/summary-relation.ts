import type { Expression, OrderBy, Window } from '../expressions';
import {
  all,
  arithmetic,
  blanksAsNull,
  cast,
  closed,
  compare,
  either,
  failureWithin,
  isNull,
  isTrue,
  not,
  sizeOf,
  smallSum,
  sumType,
  wholeLiteral,
  widen,
} from '../expressions';
import type { FieldType } from '../fields';
import { text, whole } from '../fields';
import type { Binding } from '../parameters';
import type { CalculatedColumn, Column, CountColumn, MeasureColumn, Relation } from '../sql';
import { calculated, calculatedColumn, columnsOf, valueOf } from '../sql';
import type { FailureAt } from './kind';
import type { CheckedValue, SummaryAggregate } from './figures';
import { addsUpAgain, separatorOf } from './figures';
import type { SummaryParts } from './summary';
import type { CheckedPart, EveryGroup } from './every-group';
import { everyGroup, filledFigure } from './every-group';

/** A figure that can be computed. */
export type Figure = CheckedValue & { readonly type: FieldType };

/** A summary understood. */
export interface CheckedSummary extends SummaryParts {
  /** Groups there are also without rows. */
  readonly every?: { readonly parts: readonly CheckedPart[]; readonly filledWith: EveryGroup['filledWith'] };
}

/** A figure with what rows are asked for it: columns computed before, or expressions where they are asked once and at once. */
interface Asked extends Figure {
  readonly own?: Expression;
  readonly holds?: Expression;
  readonly by?: Expression;
  readonly columns: readonly CalculatedColumn[];
}

/** A summary as far as it is told. */
export interface SummaryOwn {
  readonly step: { readonly id: string };
  readonly checked: CheckedSummary;
  readonly title: string;
}

export const figuresOf = ({ values }: SummaryParts) =>
  values.flatMap((each): readonly Figure[] => (each.type ? [{ ...each, type: each.type }] : []));
const column = (id: string, type: FieldType): Column => ({ id, name: id, type });
const read = (id: string, type: FieldType) => valueOf({ id, type });

/** What the step stands for: what is grouped by and told of is computed once a row, then rows are grouped. */
export function summaryRelation(own: SummaryOwn, inputs: readonly Relation[], binding: Binding): Relation {
  const { checked, title } = own;
  const [input] = inputs;
  if (!input) throw new RangeError('a summary has one input at least');
  const plain = (of: Expression) => blanksAsNull(of, binding.blanks);
  const figures = figuresOf(checked);
  const keys = checked.keys.flatMap(({ key, expression }) =>
    expression ? [{ id: key.id, name: key.name, type: expression.type, expression: plain(expression) }] : [],
  );
  const asked = figures.map((each) => askedOf(each, plain));
  const made = [...keys, ...asked.flatMap((each) => each.columns)];
  const computed = made.length === 0 ? input : calculated(input, made, undefined);
  const partition = keys.map(valueOf);
  const places = asked.flatMap((each) => placesOf(each, partition));
  const placed = places.length === 0 ? computed : calculated(computed, places, undefined);
  const parts = asked.map(partsOf);
  const grouped: Relation = {
    node: 'group',
    input: placed,
    keys: keys.map((each) => ({ ...each, expression: valueOf(each) })),
    counts: parts.flatMap((each) => each.counts),
    measures: parts.flatMap((each) => each.measures),
  };
  const results = figures.map((each): CalculatedColumn => ({
    ...column(each.value.id, each.type),
    name: each.value.name,
    expression: resultOf(each),
  }));
  const groups: Relation = { node: 'calculate', input: grouped, kept: keys.map((each) => each.id), fields: results };
  return { ...(checked.every ? withEvery(own, checked.every, groups, placed, inputs, binding) : groups), name: title };
}

/** The groups, and those without rows that are wanted besides: laid together by their keys, each figure is its only value. */
function withEvery(
  { step, checked }: SummaryOwn,
  { parts, filledWith }: NonNullable<CheckedSummary['every']>,
  groups: Relation,
  placed: Relation,
  inputs: readonly Relation[],
  binding: Binding,
): Relation {
  const every = everyGroup(step.id, parts, placed, inputs, binding);
  if (!every) return groups;
  const [keys, figures] = [columnsOf(groups).slice(0, checked.keys.length), columnsOf(groups).slice(checked.keys.length)];
  const there: CalculatedColumn = { id: `${step.id} there`, name: 'there', type: whole, expression: wholeLiteral(1) };
  const absent = [...figures, there].map((each): CalculatedColumn => ({
    ...each,
    expression: { op: 'literal', type: each.type, value: null },
  }));
  const columns = [...keys, ...figures, column(there.id, whole)];
  const union: Relation = {
    node: 'union',
    inputs: [
      { node: 'choose', input: { node: 'calculate', input: groups, fields: [there] }, columns },
      { node: 'choose', input: { node: 'calculate', input: every, fields: absent }, columns },
    ],
    columns: columns.map((each) => ({ ...each, id: `${each.id} of all` })),
  };
  const of = (id: string, type: FieldType) => read(`${id} of all`, type);
  const together: Relation = {
    node: 'group',
    input: union,
    keys: keys.map((each) => ({ ...each, expression: of(each.id, each.type) })),
    counts: [],
    measures: [...figures, column(there.id, whole)].map((each) => ({
      ...each,
      id: `${each.id} told`,
      aggregate: 'least',
      of: of(each.id, each.type),
    })),
  };
  const adds = new Map(checked.values.map(({ value }) => [value.id, addsUpAgain(value.aggregate)]));
  const results = figures.map((each): CalculatedColumn => {
    const figure = read(`${each.id} told`, each.type);
    const filled = filledFigure(filledWith, adds.get(each.id) === true, each.type);
    if (filled === null) return { ...each, expression: figure };
    const made = isNull(read(`${there.id} told`, whole));
    return {
      ...each,
      expression: {
        op: 'case',
        type: each.type,
        branches: [{ when: made, then: { op: 'literal', type: each.type, value: filled } }],
        otherwise: figure,
      },
    };
  });
  return { node: 'calculate', input: together, kept: keys.map((each) => each.id), fields: results };
}

/** What is joined is joined as text. */
export const told = (aggregate: SummaryAggregate, of: Expression) =>
  aggregate === 'joined' && of.type.kind !== 'text' ? cast(of, text) : of;

/** Figures of single rows ask about their operands in several places, and joined texts have them in another type. */
const IN_PLACES: readonly SummaryAggregate[] = ['median', 'first', 'last', 'joined'];
/** Conditions of more operations are computed as columns, so that engines write them once. */
const LONG = 60;

/**
 * What is a column already, and a condition that is asked once, are asked where rows are grouped: columns computed before
 * would stand in the way of an engine that groups parts of the rows side by side.
 */
function askedOf(figure: Figure, plain: (of: Expression) => Expression): Asked {
  const { value, of, among, order } = figure;
  const once = !IN_PLACES.includes(value.aggregate);
  const columns: CalculatedColumn[] = [];
  const kept = (word: string, expression: Expression, direct: boolean): Expression => {
    if (direct) return expression;
    columns.push(calculatedColumn(`${value.id} ${word}`, expression));
    return read(`${value.id} ${word}`, expression.type);
  };
  const operand = of && told(value.aggregate, plain(of));
  const condition = among && isTrue(plain(among));
  return {
    ...figure,
    ...(operand ? { own: kept('of', operand, once && operand.op === 'field') } : {}),
    ...(condition ? { holds: kept('among', condition, once && sizeOf(condition) <= LONG) } : {}),
    ...(order ? { by: kept('order', plain(order), false) } : {}),
    columns,
  };
}

/** Where a row stands in its group, for figures that are told from single rows. */
function placesOf(
  { value, own, holds: condition, by: order, ties = [] }: Asked,
  partition: readonly Expression[],
): readonly CalculatedColumn[] {
  if (!own) return [];
  const within = [...partition, ...(condition ? [condition] : [])];
  if (value.aggregate === 'median') {
    const filled = [...within, isNull(own)];
    const over = { op: 'window', type: whole, partition: filled } as const;
    const place: Window = { ...over, name: 'rowNumber', of: [], order: [{ of: own, descending: false, nullsFirst: false }] };
    return [
      calculatedColumn(`${value.id} place`, place),
      calculatedColumn(`${value.id} all`, { ...over, name: 'countRows', of: [], order: [] }),
    ];
  }
  if (!order || value.aggregate === 'joined') return [];
  const by = { of: order, descending: value.aggregate === 'last', nullsFirst: false };
  const byKey = ties.map((each): OrderBy => ({ of: valueOf(each), descending: by.descending, nullsFirst: false }));
  return [
    calculatedColumn(`${value.id} place`, {
      op: 'window',
      type: whole,
      name: 'rowNumber',
      of: [],
      partition: within,
      order: [by, ...byKey],
    }),
  ];
}

interface GroupParts {
  readonly counts: readonly CountColumn[];
  readonly measures: readonly MeasureColumn[];
}

/** What the group computes of a figure. */
function partsOf(figure: Asked): GroupParts {
  const { value, of, own, holds: condition, type } = figure;
  const when = condition ? { when: condition } : {};
  const id = value.id;
  if (value.aggregate === 'rows' || !of || !own) return { counts: [{ id: `${id} rows`, ...when }], measures: [] };
  const measure = (part: string, aggregate: MeasureColumn['aggregate'], made: FieldType, only?: Expression): MeasureColumn => {
    const holds = condition && only ? all(condition, only) : (only ?? condition);
    return { ...column(`${id} ${part}`, made), aggregate, of: own, ...(holds ? { when: holds } : {}) };
  };
  switch (value.aggregate) {
    case 'count':
    case 'distinct count':
      return { counts: [], measures: [measure('told', value.aggregate, whole)] };
    case 'sum':
    case 'least':
    case 'greatest':
      return { counts: [], measures: [measure('told', value.aggregate, type)] };
    case 'average':
      return { counts: [], measures: [measure('sum', 'sum', sumType(of.type)), measure('count', 'count', whole)] };
    case 'median': {
      const middle = isMiddle(id, own);
      return { counts: [], measures: [measure('sum', 'sum', sumType(of.type), middle), measure('count', 'count', whole, middle)] };
    }
    case 'joined':
      return {
        counts: [],
        measures: [{ ...measure('told', 'joined', type), order: joinedOrder(figure), separator: separatorOf(value) }],
      };
    case 'first':
    case 'last':
      return { counts: [], measures: [measure('told', 'least', type, compare('=', read(`${id} place`, whole), wholeLiteral(1)))] };
    case 'share': {
      const holds = isTrue(own);
      return {
        counts: [
          { id: `${id} rows`, ...when },
          { id: `${id} held`, when: condition ? all(condition, holds) : holds },
        ],
        measures: [],
      };
    }
  }
}

/** Texts that are equal in the order stand in their own, so that none changes places. */
function joinedOrder({ own, by: order }: Asked): readonly OrderBy[] {
  const by = (of: Expression): OrderBy => ({ of, descending: false, nullsFirst: false });
  return [order, own].flatMap((each) => (each ? [by(each)] : []));
}

/** The one row in the middle of an odd number, the two of an even one; rows without a value are none of them. */
function isMiddle(id: string, own: Expression): Expression {
  const twice = smallSum('*', read(`${id} place`, whole), wholeLiteral(2));
  const count = read(`${id} all`, whole);
  const at = (more: number) => compare('=', twice, smallSum('+', count, wholeLiteral(more)));
  return all(not(isNull(own)), either(at(0), at(1), at(2)));
}

function resultOf({ value, of, type }: Figure): Expression {
  const id = value.id;
  if (value.aggregate === 'rows' || !of) return read(`${id} rows`, whole);
  if (value.aggregate === 'share') return arithmetic('/', read(`${id} held`, whole), read(`${id} rows`, whole));
  if (value.aggregate === 'average' || value.aggregate === 'median')
    return widen(arithmetic('/', read(`${id} sum`, sumType(of.type)), read(`${id} count`, whole)), type);
  return read(`${id} told`, type);
}

/** Where what is grouped by or told of cannot be computed in a row that arrives, or does not fit the digits of a sum, by key or figure. */
export function summaryFailures({ checked }: Pick<SummaryOwn, 'checked'>, binding: Pick<Binding, 'blanks'>): readonly FailureAt[] {
  const parts = [
    ...checked.keys.map(({ key, expression }) => ({ id: key.id, of: [expression] })),
    ...checked.values.map(({ value, of, among, order }) => {
      const added = of && ADDED.includes(value.aggregate) ? closed(of) : of;
      return { id: value.id, of: [added, among, order] };
    }),
  ];
  return parts.flatMap(({ id, of }) => {
    const failures = of.flatMap((each) => (each && failureWithin(blanksAsNull(each, binding.blanks))) ?? []);
    return failures.length === 0 ? [] : [{ slot: 0, field: id, when: either(...failures) }];
  });
}

/** What is told from a sum. */
const ADDED: readonly SummaryAggregate[] = ['sum', 'average', 'median'];
