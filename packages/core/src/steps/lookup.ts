import { z } from 'zod';
import { idShape } from '../ids';
import type { FieldId } from '../fields';
import type { JoinPair } from '../joins';
import { listedWords, pairShape } from '../joins';
import type { Problem } from '../problem';
import { problem, withPlace } from '../problem';
import type { Relation } from '../sql';
import { columnsOf } from '../sql';
import type { CheckedJoin, JoinField, JoinStep, PartnerOrder } from './join';
import { joinFieldShape, joinKind, joinStep, partnerOrderShape } from './join';
import { joinRelation, joinRows } from './join-relation';
import type { FollowedThrough, ItemChange, ItemList, StepKind, Through } from './kind';
import { ROWS_FOLLOWED } from './kind';
import { stillKnown } from './passing-through';
import type { RowWords } from './row-words';
import { rowWordsShape } from './row-words';
import type { Arriving, CheckContext, Checked, StepBase } from './step';
import { NOTHING_ARRIVES, stepBase } from './step';
import type { Questioning } from './wanted-rows';

/** One partner of a lookup: which row of it is found for each row, and what is brought from there. */
export interface LookupPartner {
  readonly id: string;
  readonly pairs: readonly JoinPair[];
  readonly role: RowWords | null;
  readonly fields: readonly JoinField[];
  readonly taken: readonly string[];
  /** The first by this order, where several would be found. */
  readonly one: readonly PartnerOrder[] | null;
}

/**
 * Brings fields from many partners along keys, at most one row each: its rows are those of its first input. The partner
 * at an index comes into the slot behind it; its pairs may ask about fields of those before it.
 */
export interface LookupStep extends StepBase {
  readonly kind: 'lookup';
  readonly partners: readonly LookupPartner[];
}

export interface CheckedLookup {
  /** Each partner as the join it is, with what arrives there. */
  readonly joins: readonly Checked<JoinStep, CheckedJoin>[];
}

const partnerShape: z.ZodType<LookupPartner> = z.strictObject({
  id: idShape,
  pairs: z.array(pairShape).max(20),
  role: rowWordsShape.nullable(),
  fields: z.array(joinFieldShape).max(2_000),
  taken: z.array(idShape).max(2_000),
  one: z.array(partnerOrderShape).max(20).nullable(),
});

const shape: z.ZodType<LookupStep> = z.strictObject({ ...stepBase, kind: z.literal('lookup'), partners: z.array(partnerShape).max(49) });

/** A partner as a join of its own: rows without it are kept. */
export function partnerJoin(step: LookupStep, { id, pairs, role, fields, taken, one }: LookupPartner): JoinStep {
  const base = { id, kind: 'join', name: step.name, off: false, inputs: [], everyPair: false, accepted: '' } as const;
  return { ...base, pairs, role, fields, taken, one, keeps: { met: true, left: true, right: false } };
}

const asPartner = ({ id, pairs, role, fields, taken, one }: JoinStep): LookupPartner => ({ id, pairs, role, fields, taken, one });

const joinsOf = (step: LookupStep) => step.partners.map((each) => partnerJoin(step, each));
const through = (step: LookupStep, change: (join: JoinStep) => JoinStep): LookupStep => ({
  ...step,
  partners: joinsOf(step).map((each) => asPartner(change(each))),
});

const carries = (step: LookupStep, slot: number, field: FieldId) =>
  slot === 0 ? field : step.partners[slot - 1]?.fields.find((each) => each.from === field)?.id;

const partners: ItemList<LookupPartner> = {
  shape: partnerShape,
  sentence: (change: ItemChange) => {
    const name = (partner: unknown) => (partner as LookupPartner).role?.rows ?? 'partners';
    if (change.did === 'changed') return `changed how ${name(change.to)} are looked up`;
    return change.did === 'added' ? 'looks up one more table' : `does not look up ${name(change.item)} any more`;
  },
};

export const lookupKind: StepKind<LookupStep, CheckedLookup> = {
  kind: 'lookup',
  inputs: { least: 1, most: 50, role: (slot) => (slot === 0 ? 'rows' : `partners looked up as number ${slot}`) },
  shape,
  properties: {},
  lists: { partners },
  mints: (step) => step.partners.flatMap((each) => each.fields.map(({ id }) => id)),
  sources: () => [],
  carries,
  origin: (step, id) => {
    const field = step.partners.flatMap((each) => each.fields).find((each) => each.id === id);
    return field && { fields: [field.from], how: 'looked up' };
  },
  check,
  sentence: (step, [, ...arriving]) => {
    const names = step.partners.map((each, at) => each.role?.row ?? arriving[at]?.grain.row ?? 'partner');
    return names.length === 0 ? 'looks up nothing yet' : `looks up ${listedWords(names)}`;
  },
  mentions: ({ checked }, parameters) => checked.joins.flatMap((each) => joinKind.mentions(each, parameters)),
  unasked: () => undefined,
  order: () => 'as it comes',
  relation: ({ checked, title }, [rows, ...others], binding) => {
    if (!rows) throw new RangeError('a lookup has rows');
    const made = checked.joins.reduce((done: Relation, join, at) => joinRelation(join, [done, others[at] ?? done], binding), rows);
    return made === rows ? rows : { ...made, name: title };
  },
  rows: ({ checked }, [rows = [], ...others], binding) =>
    checked.joins.reduce((done, join, at) => joinRows(join, [done, others[at] ?? []], binding), rows),
  // At most one partner is found for each row, and rows without one are kept.
  counted: { by: 'as many rows as its first input' },
  followed,
  written: (step) => joinsOf(step).flatMap((each) => joinKind.written(each)),
  uses: (step, parameters) => joinsOf(step).flatMap((each) => joinKind.uses(each, parameters)),
  renamed: (step, kind, id, name) => through(step, (each) => joinKind.renamed(each, kind, id, name)),
  fieldName: (step, id) => step.partners.flatMap((each) => each.fields).find((each) => each.id === id)?.name,
  withFieldNamed: (step, id, name) => through(step, (each) => joinKind.withFieldNamed(each, id, name)),
  withIds: (step, idOf) => ({
    ...through(step, (each) => joinKind.withIds(each, idOf)),
    id: idOf(step.id),
    inputs: step.inputs.map((each) => each && idOf(each)),
  }),
  withoutValues: (step) => ({ ...through(step, joinKind.withoutValues), name: '' }),
};

function check(step: LookupStep, [rows = NOTHING_ARRIVES, ...others]: readonly Arriving[], context: CheckContext) {
  const joins: Checked<JoinStep, CheckedJoin>[] = [];
  const problems: Problem[] = [];
  let current = rows;
  step.partners.forEach((partner, at) => {
    const join = partnerJoin(step, partner);
    const arriving = [current, others[at] ?? NOTHING_ARRIVES];
    const found = joinKind.check(join, arriving, context);
    const sound = !found.problems.some((each) => each.severity === 'error');
    const refused = sound && found.checked.many.left ? [severalFound(arriving, join)] : [];
    const own = [...found.problems.filter(({ code }) => code !== 'join-multiplies'), ...refused];
    problems.push(
      ...own.map((each) => ({ ...withPlace(each, { item: partner.id }), place: { ...each.place, item: partner.id, step: step.id } })),
    );
    joins.push({ ...found, step: join, title: '', arriving, blocked: !sound });
    current = { schema: found.schema, grain: rows.grain };
  });
  return { schema: current.schema, grain: rows.grain, problems, checked: { joins } };
}

function severalFound([left, right]: readonly Arriving[], join: JoinStep): Problem {
  const partner = join.role ?? right?.grain;
  return problem(
    'lookup-several',
    `No key tells that a ${left?.grain.row ?? 'row'} finds one ${partner?.row ?? 'partner'} at most, so nothing is looked up.`,
    {},
    'a pair more, or one partner per row chosen by an order',
  );
}

function* followed(given: Through<LookupStep, CheckedLookup>): Questioning<FollowedThrough> {
  const known = stillKnown(given, carries);
  if (!known) return { present: 0, dropped: [], values: [] };
  const taken = given.checked.step.partners.flatMap((each) => each.taken);
  const fields = given.checked.schema.fields.filter((each) => taken.includes(each.id)).slice(0, 6);
  const columns = fields.length > 0 ? fields.map(({ id, name, type }) => ({ id, name, type })) : columnsOf(given.relation).slice(0, 1);
  const rows = yield { relation: { node: 'filter', input: given.relation, condition: known }, columns, limit: ROWS_FOLLOWED };
  const values = rows.map((row) => fields.map(({ name }, at) => ({ name, value: row[at] ?? null })));
  return { present: rows.length, dropped: [], values, known };
}

/** A lookup with no partner yet. */
export const lookupStep = (mint: () => string, input: string): LookupStep => ({
  id: mint(),
  kind: 'lookup',
  name: '',
  off: false,
  inputs: [input],
  partners: [],
});

/** A partner that asks for no pair yet; none of its fields is taken. */
export function lookupPartner(mint: () => string, arriving: readonly [Arriving, Arriving], called: string): LookupPartner {
  return asPartner(joinStep(mint, ['', ''], arriving, called));
}
