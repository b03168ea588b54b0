import type { Expression } from '../expressions';
import { compare, conjunction, either, isNull } from '../expressions';
import type { FieldId, Schema } from '../fields';
import { fieldById } from '../fields';
import { relationAfter, relationArriving } from '../planning';
import { refuse } from '../problem';
import type { Relation } from '../sql';
import { columnsOf } from '../sql';
import type { CheckedStep, FollowedThrough, Questioning, WireRow } from '../steps';
import { kindOf, readsSource, ROWS_FOLLOWED, stillKnown } from '../steps';
import { beginning, readValue } from '../values';
import { checkedStep, standingOn, subTrail } from '../trail';
import type { QuestionContext } from './question';

/** What a row is known by: values of fields of the step it comes from, in wire form; null for null. */
export type Identity = readonly { readonly field: FieldId; readonly value: string | null }[];

/** What became of the rows at one step: how many exactly, and of `ROWS_FOLLOWED` of them which and why. */
export interface FollowedStep extends Omit<FollowedThrough, 'known'> {
  readonly step: string;
  readonly arrived: number;
}

export interface Followed {
  /** The first of the rows where they come from, every column. */
  readonly source: { readonly step: string; readonly names: readonly string[]; readonly rows: readonly WireRow[] };
  readonly more: boolean;
  /** The step they come from, and those behind it as far as they can be told there. */
  readonly steps: readonly FollowedStep[];
}

/** Rows that can be told behind a step: how many there are, and which. */
interface Known {
  readonly rows: number;
  readonly condition: Expression | undefined;
}

/** What became of the rows of an identity, from where they come from to a step. */
export function* followRow(context: QuestionContext, stepId: string, identity: Identity): Questioning<Followed> {
  const { trail, binding } = context;
  const behind = subTrail(trail.definition, stepId);
  const origin = behind.flatMap(({ id }) => checkedStep(trail, id) ?? []).find((each) => isOrigin(each, identity));
  if (!origin || identity.length === 0)
    return refuse('field-gone', 'A row is followed by fields of one step they come from.', { step: stepId }, 'fields of a table step');
  const known = conditionOf(origin.schema, identity);
  const table = relationAfter(trail, origin.step.id, binding);
  const rows = yield { relation: { node: 'filter', input: table, condition: known }, columns: columnsOf(table), limit: ROWS_FOLLOWED + 1 };
  const found = rows.slice(0, ROWS_FOLLOWED);
  const nothing = { dropped: [], values: [] };
  const more = rows.length > ROWS_FOLLOWED;
  const all = more ? yield* countWhere(table, known) : found.length;
  const steps: FollowedStep[] = [{ step: origin.step.id, arrived: all, present: all, ...nothing }];
  const at = new Map<string, Known>([[origin.step.id, { rows: all, condition: known }]]);
  for (const { id } of standingOn(trail.definition, origin.step.id)) {
    const checked = behind.some((each) => each.id === id) && id !== origin.step.id ? checkedStep(trail, id) : undefined;
    const through = checked && (yield* followThrough(context, checked, at));
    if (!through) continue;
    const { known: condition, ...told } = through;
    steps.push({ step: id, ...told });
    at.set(id, { rows: told.present, condition });
  }
  const names = columnsOf(table).map((each) => each.name);
  return { source: { step: origin.step.id, names, rows: found }, more, steps };
}

/** A row is known by fields that one step mints. */
function isOrigin({ step }: CheckedStep, identity: Identity): boolean {
  const minted = new Set(kindOf(step).mints(step));
  return readsSource(step) && identity.every(({ field }) => minted.has(field));
}

/** The condition that finds the rows of an identity among those of a schema. */
export function conditionOf(schema: Schema, identity: Identity): Expression {
  const conditions = identity.map(({ field: id, value }): Expression => {
    const field = fieldById(schema, id);
    if (!field) return refuse('field-gone', 'A row is followed by fields of its table.', { field: id }, 'a field of the table step');
    const of: Expression = { op: 'field', type: field.type, id };
    if (value === null) return isNull(of);
    const read = readValue(field.type, value);
    if (!read.ok)
      return refuse('value-wrong-type', `“${beginning(value, 60)}” is no value for ${field.name}.`, { field: id }, read.expected);
    return compare('=', of, { op: 'literal', type: field.type, value: read.value });
  });
  return conjunction(conditions);
}

/** What became of the rows at a step, whatever slots they arrive in; undefined where they cannot be told any more. */
function* followThrough(
  { trail, binding }: QuestionContext,
  checked: CheckedStep,
  at: ReadonlyMap<string, Known>,
): Questioning<(FollowedThrough & { readonly arrived: number }) | undefined> {
  const { step } = checked;
  const reached: (FollowedThrough & { readonly arrived: number })[] = [];
  for (const [slot, input] of readsSource(step) ? [] : step.inputs.entries()) {
    const known = input === null ? undefined : at.get(input);
    // Where the rows cannot be told any more, neither can they behind it.
    if (!known || (known.rows > 0 && !known.condition) || (step.off && slot > 0)) continue;
    reached.push(yield* throughSlot({ trail, binding }, checked, slot, known));
  }
  const [first, ...others] = reached;
  if (!first || others.length === 0) return first;
  const conditions = reached.flatMap((each) => each.known ?? []);
  const told = {
    arrived: reached.reduce((sum, each) => sum + each.arrived, 0),
    dropped: reached.flatMap((each) => each.dropped),
    values: first.values,
  };
  if (conditions.length === 0) return { ...told, present: Math.max(...reached.map((each) => each.present)) };
  const [only = first.known as Expression] = conditions;
  const condition = conditions.length > 1 ? either(...conditions) : only;
  const present = yield* countWhere(relationAfter(trail, step.id, binding), condition);
  // Rows that came by a way on which they are lost would be missing further on.
  return { ...told, present, ...(conditions.length === reached.length ? { known: condition } : {}) };
}

function* throughSlot(
  { trail, binding }: Pick<QuestionContext, 'trail' | 'binding'>,
  checked: CheckedStep,
  slot: number,
  { rows: arrived, condition: known }: Known,
): Questioning<FollowedThrough & { readonly arrived: number }> {
  const { step } = checked;
  if (arrived === 0 || !known) return { arrived, present: 0, dropped: [], values: [] };
  const kind = kindOf(step);
  if (step.off) {
    const now = stillKnown({ checked, slot, known }, kind.carries);
    return { arrived, present: arrived, dropped: [], values: [], ...(now ? { known: now } : {}) };
  }
  const inputs = step.inputs.map((_input, index) => relationArriving(trail, step.id, binding, index));
  const relation = relationAfter(trail, step.id, binding);
  const { parameters } = trail.definition;
  const through = yield* kind.followed({ checked, parameters, inputs, relation, slot, known, arrived, binding });
  // What a step tells of the rows it looked at holds for all only where it looked at all.
  const few = arrived <= ROWS_FOLLOWED && through.present < ROWS_FOLLOWED;
  const present = few || !through.known ? through.present : yield* countWhere(relation, through.known);
  return { arrived, ...through, present };
}

function* countWhere(relation: Relation, condition: Expression): Questioning<number> {
  const input: Relation = { node: 'filter', input: relation, condition };
  const counted: Relation = { node: 'group', input, keys: [], counts: [{ id: 'rows' }], measures: [] };
  const [[rows] = []] = yield { relation: counted, columns: columnsOf(counted) };
  return Number(rows ?? '0');
}
