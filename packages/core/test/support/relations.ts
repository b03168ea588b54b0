import type { Binding, Decimal, Expression, MeasureColumn, OrderBy, Questioning, Relation, Value, WantedRows, WireRow } from '../../src';
import { addDecimals, columnsOf, compareValues, evaluate, ofWhole, rescale, rowOf, windowsOf, windowValues, writeValue } from '../../src';

type Row = ReadonlyMap<string, Value>;

/** Rows of a table or of something landed, by field id. */
export type RowsOf = (leaf: Relation & { node: 'table' | 'landed' }) => readonly Row[];

/** A relation computed the slow and obvious way, for what engines are asked to do. Where one list is given, every leaf gives all its rows. */
export function rowsIn(relation: Relation, given: readonly Row[] | RowsOf, binding: Binding): readonly Row[] {
  const tables: RowsOf = typeof given === 'function' ? given : () => given;
  const value = (of: Expression, row: Row) => evaluate(of, rowOf(row, binding));
  switch (relation.node) {
    case 'table':
    case 'landed':
      return tables(relation);
    case 'text':
      throw new RangeError('what a text means is its source’s to say');
    case 'numbers':
      return Array.from({ length: relation.count }, (_each, at) => new Map([[relation.column.id, ofWhole(BigInt(at + 1))]]));
    case 'filter':
      return rowsIn(relation.input, tables, binding).filter((row) => value(relation.condition, row) === true);
    case 'choose':
      return rowsIn(relation.input, tables, binding);
    case 'calculate': {
      const rows = rowsIn(relation.input, tables, binding);
      const windows = new Map(
        relation.fields
          .flatMap((each) => windowsOf(each.expression))
          .map((node) => [
            node,
            windowValues(
              node,
              rows.map((row) => rowOf(row, binding)),
            ),
          ]),
      );
      return rows.map((row, at) => {
        const kept = relation.kept ? [...row].filter(([id]) => relation.kept?.includes(id)) : row;
        const of = rowOf(row, binding, (node) => windows.get(node)?.[at] ?? null);
        return new Map([...kept, ...relation.fields.map((each) => [each.id, evaluate(each.expression, of)] as const)]);
      });
    }
    case 'join': {
      const [left, right] = [relation.left, relation.right].map((each) => rowsIn(each, tables, binding)) as [
        readonly Row[],
        readonly Row[],
      ];
      const met = (a: Row, b: Row) => value(relation.on, new Map([...a, ...b])) === true;
      const pairs = left.flatMap((a) => right.filter((b) => met(a, b)).map((b) => new Map([...a, ...b])));
      const alone = (rows: readonly Row[], others: readonly Row[], side: typeof met) => rows.filter((a) => !others.some((b) => side(a, b)));
      const { keeps } = relation;
      return [
        ...pairs,
        ...(keeps === 'left' || keeps === 'both' ? alone(left, right, met) : []),
        ...(keeps === 'right' || keeps === 'both' ? alone(right, left, (b, a) => met(a, b)) : []),
      ];
    }
    case 'sort':
      return rowsIn(relation.input, tables, binding).toSorted((a, b) => inOrder(relation.order, a, b, value));
    case 'limit': {
      const rows = rowsIn(relation.input, tables, binding);
      return rows.toSorted((a, b) => inOrder(relation.order ?? [], a, b, value)).slice(0, relation.count);
    }
    case 'group':
      return grouped(relation, rowsIn(relation.input, tables, binding), value);
    case 'union':
      return relation.inputs.flatMap((input) => {
        const columns = columnsOf(input);
        return rowsIn(input, tables, binding).map(
          (row) => new Map(relation.columns.map(({ id }, at) => [id, row.get(columns[at]?.id ?? '') ?? null])),
        );
      });
  }
}

function grouped(relation: Relation & { node: 'group' }, rows: readonly Row[], value: (of: Expression, row: Row) => Value): readonly Row[] {
  if (relation.levels !== undefined) return rolledUp(relation, relation.levels, rows, value);
  const groups = new Map<string, Row[]>();
  for (const row of rows) {
    const key = relation.keys.map((each) => wire(each.expression, value(each.expression, row)));
    groups.set(JSON.stringify(key), [...(groups.get(JSON.stringify(key)) ?? []), row]);
  }
  if (relation.keys.length === 0 && groups.size === 0) groups.set('[]', []);
  return [...groups.values()].map((each) => {
    const keys = relation.keys.map((key) => [key.id, each[0] ? value(key.expression, each[0]) : null] as const);
    const counts = relation.counts.map(({ id, when }) => {
      const counted = when ? each.filter((row) => value(when, row) === true) : each;
      return [id, ofWhole(BigInt(counted.length))] as const;
    });
    const measures = (relation.measures ?? []).map((measure) => [measure.id, measured(measure, each, value)] as const);
    return new Map<string, Value>([...keys, ...counts, ...measures]);
  });
}

/** The groups of each number of keys, from all of them down to none. */
function rolledUp(
  relation: Relation & { node: 'group' },
  level: string,
  rows: readonly Row[],
  value: (of: Expression, row: Row) => Value,
): readonly Row[] {
  const { levels: _levels, ...plain } = relation;
  return relation.keys.concat(null as never).flatMap((_key, index) => {
    const count = relation.keys.length - index;
    const groups = grouped({ ...plain, keys: relation.keys.slice(0, count) }, rows, value);
    return groups.map((group) => new Map([...group, [level, ofWhole(BigInt(count))] as const]));
  });
}

function measured(
  { aggregate, of, when, type, order = [], separator = '' }: MeasureColumn,
  rows: readonly Row[],
  value: (of: Expression, row: Row) => Value,
): Value {
  const among = rows.filter((row) => !when || value(when, row) === true);
  if (aggregate === 'joined') {
    const texts = among.toSorted((a, b) => inOrder(order, a, b, value)).flatMap((row) => value(of, row) ?? []);
    return texts.length === 0 ? null : texts.join(separator);
  }
  const values = among.flatMap((row) => value(of, row) ?? []);
  if (aggregate === 'count') return ofWhole(BigInt(values.length));
  if (aggregate === 'distinct count') return ofWhole(BigInt(new Set(values.map((each) => wire(of, each))).size));
  if (values.length === 0) return null;
  if (aggregate === 'sum')
    return of.type.kind === 'float'
      ? (values as number[]).reduce((sum, each) => sum + each, 0)
      : rescale((values as Decimal[]).reduce(addDecimals), type.kind === 'decimal' ? type.scale : 0);
  return values.toSorted((a, b) => compareValues(of.type, a, b)).at(aggregate === 'least' ? 0 : -1) ?? null;
}

function inOrder(order: readonly OrderBy[], a: Row, b: Row, value: (of: Expression, row: Row) => Value): number {
  for (const { of, descending, nullsFirst } of order) {
    const [left, right] = [value(of, a), value(of, b)];
    if (left === null && right === null) continue;
    if (left === null || right === null) return (left === null) === nullsFirst ? -1 : 1;
    const compared = compareValues(of.type, left, right);
    if (compared !== 0) return descending ? -compared : compared;
  }
  return 0;
}

const wire = ({ type }: Pick<Expression, 'type'>, value: Value) => (value === null ? null : writeValue(type, value));

/** The rows a question wants, computed in core. */
export function wantedIn(
  { relation, columns, limit, bound }: WantedRows,
  tables: readonly Row[] | RowsOf,
  binding: Binding,
): readonly WireRow[] {
  const all = rowsIn(relation, tables, { ...binding, bound: new Map([...binding.bound, ...(bound ?? [])]) });
  const known = new Set(columnsOf(relation).map((each) => each.id));
  return all.slice(0, limit).map((row) =>
    columns.map((column) => {
      if (!known.has(column.id)) throw new RangeError(`${column.id} is no column`);
      return wire(column, row.get(column.id) ?? null);
    }),
  );
}

/** A question's answer over rows in core; says how often it asked. */
export function answerIn<A>(
  question: Questioning<A>,
  tables: readonly Row[] | RowsOf,
  binding: Binding,
): { readonly answer: A; readonly asked: number } {
  let asked = 0;
  let step = question.next();
  while (!step.done) {
    asked++;
    step = question.next(wantedIn(step.value, tables, binding));
  }
  return { answer: step.value, asked };
}
