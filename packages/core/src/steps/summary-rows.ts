import type { Expression } from '../expressions';
import { arithmetic, blanksAsNull, evaluate, sumType, wholeLiteral } from '../expressions';
import type { FieldType } from '../fields';
import { text, whole } from '../fields';
import type { Binding } from '../parameters';
import type { Decimal, Value } from '../values';
import { addDecimals, compareValues, ofWhole, rescale, writeValue } from '../values';
import { everyGroupRows, filledFigure } from './every-group';
import { addsUpAgain, separatorOf } from './figures';
import { rowOf } from './rows';
import type { Rows } from './step';
import type { Figure, SummaryOwn } from './summary-relation';
import { figuresOf, told } from './summary-relation';

/** The rows in core: groups in the order they come, each figure told the slow way. */
export function summaryRows({ step, checked }: SummaryOwn, inputs: readonly Rows[], binding: Binding): Rows {
  const [rows = []] = inputs;
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
  const told = [...groups.values()].map(
    (group) =>
      new Map<string, Value>([
        ...keys.map(({ id }, at) => [id, group.values[at] ?? null] as const),
        ...figures.map((each) => [each.value.id, figureOf(each, group.rows, binding)] as const),
      ]),
  );
  if (!checked.every) return told;
  const { parts, filledWith } = checked.every;
  const keyOf = (row: ReadonlyMap<string, Value>) =>
    JSON.stringify(keys.map(({ id, expression }) => keyText(expression.type, row.get(id) ?? null)));
  const all = new Map(told.map((row) => [keyOf(row), row]));
  for (const row of everyGroupRows(step.id, parts, told, inputs, binding)) {
    const filled = figures.map(({ value, type }) => [value.id, filledFigure(filledWith, addsUpAgain(value.aggregate), type)] as const);
    if (!all.has(keyOf(row))) all.set(keyOf(row), new Map([...row, ...filled]));
  }
  return [...all.values()];
}

/** Numbers of different scales are one value. */
const keyText = (type: FieldType, value: Value) =>
  value === null ? null : typeof value === 'object' ? writeValue(type, rescale(value, 30)) : writeValue(type, value);

function figureOf(figure: Figure, rows: Rows, binding: Binding): Value {
  const { value, of, type, among: condition, order, ties = [] } = figure;
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
    return quotient({ op: 'literal', type: sumType(of.type), value: sum }, wholeLiteral(numbers.length));
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
    case 'joined': {
      const by = some
        .map((row) => ({ text: given(told(value.aggregate, of), row), at: order ? given(order, row) : null }))
        .filter((each) => each.text !== null)
        .toSorted((a, b) => compareOrder(order?.type ?? text, a.at, b.at, false) || compareOrder(text, a.text, b.text, false));
      return by.length === 0 ? null : by.map((each) => String(each.text)).join(separatorOf(value));
    }
    default: {
      const by = some
        .map((row) => ({ row, at: order ? given(order, row) : null }))
        .toSorted((a, b) => {
          const last = value.aggregate === 'last';
          const decided = ties.map((each) => compareOrder(each.type, a.row.get(each.id) ?? null, b.row.get(each.id) ?? null, last));
          return [compareOrder(order?.type ?? type, a.at, b.at, last), ...decided].find((each) => each !== 0) ?? 0;
        });
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
