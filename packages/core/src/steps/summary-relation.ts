import type { Expression, Window } from '../expressions';
import {
  all,
  arithmetic,
  blanksAsNull,
  compare,
  either,
  evaluate,
  isNull,
  isTrue,
  not,
  smallSum,
  wholeLiteral,
  widen,
} from '../expressions';
import type { FieldType } from '../fields';
import { whole, yesno } from '../fields';
import type { Binding } from '../parameters';
import type { CalculatedColumn, Column, CountColumn, MeasureColumn, Relation } from '../sql';
import { calculated, calculatedColumn, valueOf } from '../sql';
import type { Decimal, Value } from '../values';
import { addDecimals, compareValues, ofWhole, rescale, writeValue } from '../values';
import { rowOf } from './rows';
import type { Rows } from './step';
import type { CheckedSummary, CheckedValue } from './summary';

/** A figure that can be computed. */
type Figure = CheckedValue & { readonly type: FieldType };

interface Own {
  readonly checked: CheckedSummary;
  readonly title: string;
}

const figuresOf = ({ values }: CheckedSummary) =>
  values.flatMap((each): readonly Figure[] => (each.type ? [{ ...each, type: each.type }] : []));
const column = (id: string, type: FieldType): Column => ({ id, name: id, type });
const read = (id: string, type: FieldType) => valueOf({ id, type });

/** What the step stands for: what is grouped by and told of is computed once a row, then rows are grouped. */
export function summaryRelation({ checked, title }: Own, input: Relation, binding: Pick<Binding, 'blanks'>): Relation {
  const plain = (of: Expression) => blanksAsNull(of, binding.blanks);
  const figures = figuresOf(checked);
  const keys = checked.keys.flatMap(({ key, expression }) =>
    expression ? [{ id: key.id, name: key.name, type: expression.type, expression: plain(expression) }] : [],
  );
  const operands = figures.flatMap(({ value, of, among, order }): CalculatedColumn[] => [
    ...(of ? [calculatedColumn(`${value.id} of`, plain(of))] : []),
    ...(among ? [calculatedColumn(`${value.id} among`, isTrue(plain(among)))] : []),
    ...(order ? [calculatedColumn(`${value.id} order`, plain(order))] : []),
  ]);
  const made = [...keys, ...operands];
  const computed = made.length === 0 ? input : calculated(input, made, undefined);
  const partition = keys.map(valueOf);
  const places = figures.flatMap((each) => placesOf(each, partition));
  const placed = places.length === 0 ? computed : calculated(computed, places, undefined);
  const parts = figures.map(partsOf);
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
  return {
    node: 'calculate',
    name: title,
    input: grouped,
    kept: keys.map((each) => each.id),
    fields: results,
  };
}

const among = ({ value, among: condition }: Figure): Expression | undefined => (condition ? read(`${value.id} among`, yesno) : undefined);

/** Where a row stands in its group, for figures that are told from single rows. */
function placesOf(figure: Figure, partition: readonly Expression[]): readonly CalculatedColumn[] {
  const { value, of, order } = figure;
  if (!of) return [];
  const own = read(`${value.id} of`, of.type);
  const condition = among(figure);
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
  if (!order) return [];
  const by = { of: read(`${value.id} order`, order.type), descending: value.aggregate === 'last', nullsFirst: false };
  return [calculatedColumn(`${value.id} place`, { op: 'window', type: whole, name: 'rowNumber', of: [], partition: within, order: [by] })];
}

interface GroupParts {
  readonly counts: readonly CountColumn[];
  readonly measures: readonly MeasureColumn[];
}

/** What the group computes of a figure. */
function partsOf(figure: Figure): GroupParts {
  const { value, of, type } = figure;
  const condition = among(figure);
  const when = condition ? { when: condition } : {};
  const id = value.id;
  if (value.aggregate === 'rows' || !of) return { counts: [{ id: `${id} rows`, ...when }], measures: [] };
  const own = read(`${id} of`, of.type);
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
      return { counts: [], measures: [measure('sum', 'sum', sumOf(of.type)), measure('count', 'count', whole)] };
    case 'median': {
      const middle = isMiddle(id, own);
      return { counts: [], measures: [measure('sum', 'sum', sumOf(of.type), middle), measure('count', 'count', whole, middle)] };
    }
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

/** The one row in the middle of an odd number, the two of an even one; rows without a value are none of them. */
function isMiddle(id: string, own: Expression): Expression {
  const twice = smallSum('*', read(`${id} place`, whole), wholeLiteral(2));
  const count = read(`${id} all`, whole);
  const at = (more: number) => compare('=', twice, smallSum('+', count, wholeLiteral(more)));
  return all(not(isNull(own)), either(at(0), at(1), at(2)));
}

const sumOf = (type: FieldType): FieldType =>
  type.kind === 'float' ? type : { kind: 'decimal', precision: 38, scale: type.kind === 'decimal' ? type.scale : 0 };

function resultOf({ value, of, type }: Figure): Expression {
  const id = value.id;
  if (value.aggregate === 'rows' || !of) return read(`${id} rows`, whole);
  if (value.aggregate === 'share') return arithmetic('/', read(`${id} held`, whole), read(`${id} rows`, whole));
  if (value.aggregate === 'average' || value.aggregate === 'median')
    return widen(arithmetic('/', read(`${id} sum`, sumOf(of.type)), read(`${id} count`, whole)), type);
  return read(`${id} told`, type);
}

/** The rows in core: groups in the order they come, each figure told the slow way. */
export function summaryRows({ checked }: Own, rows: Rows, binding: Binding): Rows {
  const figures = figuresOf(checked);
  const keys = checked.keys.flatMap(({ key, expression }) =>
    expression ? [{ id: key.id, expression: blanksAsNull(expression, binding.blanks) }] : [],
  );
  const groups = new Map<string, { readonly values: readonly Value[]; readonly rows: ReadonlyMap<string, Value>[] }>();
  for (const row of rows) {
    const values = keys.map(({ expression }) => evaluate(expression, rowOf(row, binding)));
    const key = JSON.stringify(values.map((each, at) => keyText(keys[at]?.expression.type ?? whole, each)));
    const group = groups.get(key) ?? { values, rows: [] };
    group.rows.push(row);
    groups.set(key, group);
  }
  if (keys.length === 0 && groups.size === 0) groups.set('', { values: [], rows: [] });
  return [...groups.values()].map(
    (group) =>
      new Map<string, Value>([
        ...keys.map(({ id }, at) => [id, group.values[at] ?? null] as const),
        ...figures.map((each) => [each.value.id, told(each, group.rows, binding)] as const),
      ]),
  );
}

/** Numbers of different scales are one value. */
const keyText = (type: FieldType, value: Value) =>
  value === null ? null : typeof value === 'object' ? writeValue(type, rescale(value, 30)) : writeValue(type, value);

function told(figure: Figure, rows: Rows, binding: Binding): Value {
  const { value, of, type, among: condition, order } = figure;
  const given = (expression: Expression, row: Rows[number]) => evaluate(blanksAsNull(expression, binding.blanks), rowOf(row, binding));
  const some = condition ? rows.filter((row) => given(condition, row) === true) : rows;
  if (value.aggregate === 'rows' || !of) return ofWhole(BigInt(some.length));
  const count = (many: number) => ofWhole(BigInt(many));
  const quotient = (top: Expression, bottom: Expression) => evaluate(arithmetic('/', top, bottom), rowOf(new Map(), binding));
  if (value.aggregate === 'share') {
    const held = some.filter((row) => given(of, row) === true).length;
    return quotient(wholeLiteral(held), wholeLiteral(some.length));
  }
  const values = some.flatMap((row) => given(of, row) ?? []);
  const sorted = () => values.toSorted((a, b) => compareValues(of.type, a, b));
  const average = (numbers: readonly Exclude<Value, null>[]): Value => {
    if (numbers.length === 0) return null;
    const sum = total(of.type, numbers);
    return quotient({ op: 'literal', type: sumOf(of.type), value: sum }, wholeLiteral(numbers.length));
  };
  switch (value.aggregate) {
    case 'count':
      return count(values.length);
    case 'distinct count':
      return count(new Set(values.map((each) => keyText(of.type, each))).size);
    case 'sum':
      return values.length === 0 ? null : total(of.type, values);
    case 'average':
      return average(values);
    case 'least':
      return sorted()[0] ?? null;
    case 'greatest':
      return sorted().at(-1) ?? null;
    case 'median': {
      const inOrder = sorted();
      return average(inOrder.slice(Math.ceil(inOrder.length / 2) - 1, Math.floor(inOrder.length / 2) + 1));
    }
    default: {
      const by = some
        .map((row) => ({ row, at: order ? given(order, row) : null }))
        .toSorted((a, b) => compareOrder(order?.type ?? type, a.at, b.at, value.aggregate === 'last'));
      const [first] = by;
      return first ? given(of, first.row) : null;
    }
  }
}

function compareOrder(type: FieldType, a: Value, b: Value, descending: boolean): number {
  if (a === null || b === null) return a === b ? 0 : a === null ? 1 : -1;
  return descending ? compareValues(type, b, a) : compareValues(type, a, b);
}

function total(type: FieldType, values: readonly Exclude<Value, null>[]): Value {
  if (type.kind === 'float') return (values as readonly number[]).reduce((sum, each) => sum + each, 0);
  return rescale((values as readonly Decimal[]).reduce(addDecimals), type.kind === 'decimal' ? type.scale : 0);
}
