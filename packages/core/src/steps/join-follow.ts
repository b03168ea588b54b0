import { fieldsUsed } from '../expressions';
import type { Column, Relation } from '../sql';
import { columnsOf } from '../sql';
import { stillKnown } from './passing-through';
import { fieldById } from '../fields';
import type { CheckedJoin, JoinStep } from './join';
import { carries } from './join-fields';
import { metRows, sideColumns } from './join-relation';
import type { DroppedRow, FollowedThrough, NamedValue, Through } from './kind';
import { ROWS_FOLLOWED } from './kind';
import type { Questioning, WireRow } from './wanted-rows';

/** So many values of a partner are told beside a followed row. */
const VALUES_TOLD = 4;

/** What followed rows met, or why they met none. */
export function* followedThroughJoin(through: Through<JoinStep, CheckedJoin>): Questioning<FollowedThrough> {
  const { checked, slot, relation, inputs, binding, arrived } = through;
  const { step } = checked;
  const known = stillKnown(through, carries);
  if (!known) return { present: 0, dropped: [], values: [] };
  const sides = sideColumns(step);
  const keys = keysOf(through);
  const others = othersOf(through);
  const met = metRows(checked, inputs, binding, slot === 0 ? 'left' : 'right');
  const other = slot === 0 ? sides.right : sides.left;
  const own = columnsOf(met).filter((each) => each.id === other.id);
  const rows = yield {
    relation: { node: 'filter', input: met, condition: known },
    columns: [...own, ...keys, ...others],
    limit: ROWS_FOLLOWED,
  };
  const alone = rows.filter((row) => row[0] === null);
  const meeting = rows.filter((row) => row[0] !== null);
  const kept = slot === 0 ? step.keeps.left : step.keeps.right;
  const named = (row: WireRow, columns: readonly Column[], from: number): readonly NamedValue[] =>
    columns.map(({ name }, at) => ({ name, value: row[from + at] ?? null }));
  const without = alone.map((row): DroppedRow => ({ clauses: [], values: named(row, keys, 1), because: 'no partner' }));
  const withPartner = step.keeps.met
    ? []
    : meeting.map((row): DroppedRow => ({ clauses: [], values: named(row, keys, 1), because: 'has a partner' }));
  const values = step.keeps.met ? meeting.map((row) => named(row, others, 1 + keys.length)) : [];
  const dropped = [...(kept ? [] : without), ...withPartner];
  const told = kept && alone.length > 0 ? { kept: without } : {};
  // Which partner is kept is decided among all of them.
  const present = step.one ? (yield countOf(relation, known)).length : (step.keeps.met ? meeting.length : 0) + (kept ? alone.length : 0);
  return { present, dropped, values: arrived > 0 ? values : [], known, ...told };
}

const countOf = (relation: Relation, condition: NonNullable<FollowedThrough['known']>) => ({
  relation: { node: 'filter', input: relation, condition } as const,
  columns: columnsOf(relation).slice(0, 1),
  limit: ROWS_FOLLOWED,
});

/** The fields of the followed side that decide whether it meets another. */
function keysOf({ checked, slot }: Through<JoinStep, CheckedJoin>): readonly Column[] {
  const used = checked.checked.pairs.flatMap(({ condition }) => (condition ? fieldsUsed(condition) : []));
  const own = new Set(
    slot === 0 ? (checked.arriving[0]?.schema.fields ?? []).map((each) => each.id) : checked.step.fields.map((each) => each.id),
  );
  return [...new Set(used)].flatMap((id) => {
    const field = own.has(id) ? fieldById(checked.schema, id) : undefined;
    return field ? [{ id, name: field.name, type: field.type }] : [];
  });
}

/** What is told of the rows it met. */
function othersOf({ checked, slot }: Through<JoinStep, CheckedJoin>): readonly Column[] {
  const { step, arriving, schema } = checked;
  const ids = slot === 0 ? step.taken : (arriving[0]?.grain.keys[0] ?? []);
  return ids
    .flatMap((id) => fieldById(schema, id) ?? [])
    .slice(0, VALUES_TOLD)
    .map(({ id, name, type }) => ({ id, name, type }));
}
