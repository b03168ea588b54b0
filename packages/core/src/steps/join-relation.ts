import type { Expression } from '../expressions';
import { applyBlanks, compare, conjunction, either, evaluate, isNull, wholeLiteral, yes } from '../expressions';
import type { FieldId } from '../fields';
import { yesno } from '../fields';
import type { Binding } from '../parameters';
import type { CalculatedColumn, Column, Relation } from '../sql';
import { calculatedColumn, columnsOf, equalPairs, valueOf } from '../sql';
import { whole } from '../fields';
import type { Value } from '../values';
import { compareValues } from '../values';
import type { CheckedJoin, JoinStep } from './join';
import { partnerFields } from './join-fields';
import { rowOf } from './rows';
import type { Checked, Rows } from './step';

type Own = Checked<JoinStep, CheckedJoin>;

/** Columns beside a join's rows that say which sides a row has. */
export const sideColumns = ({ id }: Pick<JoinStep, 'id'>) => ({
  left: { id: `${id} first`, name: `${id} first`, type: yesno },
  right: { id: `${id} second`, name: `${id} second`, type: yesno },
});

/** What has to hold of two rows that meet, blank parameters applied. */
export function joinCondition({ checked }: Pick<Own, 'checked'>, binding: Pick<Binding, 'blanks'>): Expression {
  const conditions = checked.pairs.flatMap((each) => (each.condition ? (applyBlanks(each.condition, binding.blanks) ?? []) : []));
  return conjunction(conditions);
}

/** The second input's rows with its fields under the ids they have behind the join. */
export function partnerRows({ step, arriving }: Pick<Own, 'step' | 'arriving'>, right: Relation): Relation {
  const arrived = new Map((arriving[1]?.schema.fields ?? []).map((each) => [each.id, each]));
  const fields = step.fields.flatMap(({ id, from }): CalculatedColumn[] => {
    const field = arrived.get(from);
    return field ? [{ id, name: field.name, type: field.type, expression: valueOf(field) }] : [];
  });
  return { node: 'calculate', input: right, kept: [], fields };
}

/** Rows of both inputs side by side, with columns that say which sides a row has; which are kept is asked for. */
export function metRows(
  own: Own,
  [left, right]: readonly Relation[],
  binding: Binding,
  keeps: 'pairs' | 'left' | 'right' | 'both',
): Relation {
  if (!left || !right) throw new RangeError('two inputs meet');
  const sides = sideColumns(own.step);
  const marked = (input: Relation, column: Column): Relation => ({ node: 'calculate', input, fields: [{ ...column, expression: yes }] });
  const on = joinCondition(own, binding);
  return joined({ node: 'join', left: marked(left, sides.left), right: marked(partnerRows(own, right), sides.right), on, keeps }, sides);
}

/**
 * A join that keeps both sides and asks for more than equal values, in two parts: not every engine joins fully by
 * other conditions.
 */
function joined(join: Relation & { node: 'join' }, sides: ReturnType<typeof sideColumns>): Relation {
  const { pairs, others } = equalPairs(join);
  if (join.keeps !== 'both' || (pairs.length > 0 && others.length === 0)) return join;
  const alone: Relation = { node: 'filter', input: { ...join, keeps: 'right' }, condition: isNull(valueOf(sides.left)) };
  return { node: 'union', inputs: [{ ...join, keeps: 'left' }, alone], columns: columnsOf(join) };
}

/** What the join stands for. */
export function joinRelation(own: Own, inputs: readonly Relation[], binding: Binding): Relation {
  const { step, title } = own;
  const { met, left, right } = step.keeps;
  const keeps = left ? (right ? 'both' : 'left') : right ? 'right' : 'pairs';
  const sides = sideColumns(step);
  const rows = step.one && step.one.length > 0 && met ? withOnePartner(own, inputs, binding, keeps) : metRows(own, inputs, binding, keeps);
  const alone = [...(left ? [isNull(valueOf(sides.right))] : []), ...(right ? [isNull(valueOf(sides.left))] : [])];
  const [only] = alone;
  const kept: Relation = met || !only ? rows : { node: 'filter', input: rows, condition: alone.length > 1 ? either(...alone) : only };
  const hidden = new Set(columnsOf(kept).flatMap(({ id }) => (own.schema.fields.some((each) => each.id === id) ? [] : [id])));
  return { node: 'choose', name: title, input: kept, columns: columnsOf(kept).filter((each) => !hidden.has(each.id)) };
}

/** Each row of the first input with the first of its partners by the order only. */
function withOnePartner(own: Own, inputs: readonly Relation[], binding: Binding, keeps: 'pairs' | 'left' | 'right' | 'both'): Relation {
  const { step } = own;
  const [left, right] = inputs;
  if (!left || !right) throw new RangeError('two inputs meet');
  const types = new Map(columnsOf(partnerRows(own, right)).map((each) => [each.id, each.type]));
  const order = (step.one ?? []).flatMap(({ field, descending }) => {
    const type = types.get(field);
    return type ? [{ of: valueOf({ id: field, type }), descending, nullsFirst: false }] : [];
  });
  const number = (id: string, partition: readonly Expression[], by: typeof order): CalculatedColumn =>
    calculatedColumn(id, { op: 'window', type: whole, name: 'rowNumber', of: [], partition, order: by });
  const rowNumber = number(`${step.id} row`, [], []);
  const numbered: Relation = { node: 'calculate', input: left, fields: [rowNumber] };
  const sides = sideColumns(step);
  const rows = metRows(own, [numbered, right], binding, keeps);
  const place = number(`${step.id} place`, [valueOf(rowNumber)], order);
  const placed: Relation = { node: 'calculate', input: rows, fields: [place] };
  // Rows of the second input that meet none have no row to be counted in.
  return { node: 'filter', input: placed, condition: either(compare('=', valueOf(place), wholeLiteral(1)), isNull(valueOf(sides.left))) };
}

/** The rows in core: every row is held against every other. */
export function joinRows(own: Own, [lefts = [], rights = []]: readonly Rows[], binding: Binding): Rows {
  const { step, schema, arriving } = own;
  const { met, left: keepsLeft, right: keepsRight } = step.keeps;
  const condition = joinCondition(own, binding);
  const known = new Set((arriving[1]?.schema.fields ?? []).map((each) => each.id));
  const partners = rights.map(
    (row) => new Map(step.fields.flatMap(({ id, from }) => (known.has(from) ? [[id, row.get(from) ?? null] as const] : []))),
  );
  const matched = new Set<(typeof partners)[number]>();
  const rows: ReadonlyMap<FieldId, Value>[] = [];
  const complete = (row: ReadonlyMap<FieldId, Value>) => new Map(schema.fields.map(({ id }) => [id, row.get(id) ?? null] as const));
  for (const row of lefts) {
    const theirs = partners.filter((other) => evaluate(condition, rowOf(new Map([...row, ...other]), binding)) === true);
    theirs.forEach((each) => matched.add(each));
    if (met)
      for (const other of step.one && step.one.length > 0 ? firstOf(own, theirs) : theirs) rows.push(complete(new Map([...row, ...other])));
    if (keepsLeft && theirs.length === 0) rows.push(complete(row));
  }
  if (keepsRight) for (const other of partners) if (!matched.has(other)) rows.push(complete(other));
  return rows;
}

function firstOf({ step, arriving }: Own, partners: readonly ReadonlyMap<FieldId, Value>[]): readonly ReadonlyMap<FieldId, Value>[] {
  const fields = partnerFields(step, arriving[1]?.schema ?? { fields: [] });
  const sorted = partners.toSorted((a, b) => {
    for (const { field, descending } of step.one ?? []) {
      const type = fields.find((each) => each.id === field)?.type;
      const [x, y] = [a.get(field) ?? null, b.get(field) ?? null];
      if (!type || (x === null && y === null)) continue;
      if (x === null || y === null) return x === null ? 1 : -1;
      const difference = compareValues(type, x, y);
      if (difference !== 0) return descending ? -difference : difference;
    }
    return 0;
  });
  return sorted.slice(0, 1);
}
