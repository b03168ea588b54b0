import { z } from 'zod';
import { idShape } from '../ids';
import { mentionsIn } from '../criteria';
import type { ExpressionText } from '../expressions';
import { expressionIds, fieldOfText, linkReferences, renameReference } from '../expressions';
import type { FieldId } from '../fields';
import { freeName, withArticle } from '../fields';
import type { CheckedPair, JoinPair, Kept } from '../joins';
import { checkPair, joinName, keptShape, listedWords, pairShape, pairWords, textsOfPair, withTexts } from '../joins';
import type { Parameter } from '../parameters';
import type { Problem } from '../problem';
import { problem, warning } from '../problem';
import { followedThroughJoin } from './join-follow';
import type { Multiplying } from './join-fields';
import { carries, fieldProblems, joinGrain, joinSchema, multiplying, partnerFields } from './join-fields';
import { joinRelation, joinRows } from './join-relation';
import type { ItemChange, ItemList, PropertyChange, StepKind } from './kind';
import type { RowWords } from './row-words';
import { rowWordsShape } from './row-words';
import type { Arriving, CheckContext, StepBase } from './step';
import { NOTHING_ARRIVES, stepBase } from './step';

/** A field of the second input, under an id and a name of its own behind the join. */
export interface JoinField {
  readonly id: string;
  readonly from: FieldId;
  readonly name: string;
}

/** How one partner is chosen among several: the first by this order. */
export interface PartnerOrder {
  readonly field: FieldId;
  readonly descending: boolean;
}

/** Rows of two inputs side by side where they meet. The fields of the second are minted anew. */
export interface JoinStep extends StepBase {
  readonly kind: 'join';
  readonly pairs: readonly JoinPair[];
  readonly keeps: Kept;
  /** Every row meets every other: without pairs this has to be asked for. */
  readonly everyPair: boolean;
  /** What the partners are to the first input's rows, where that is not what they are called by themselves. */
  readonly role: RowWords | null;
  readonly fields: readonly JoinField[];
  /** Ids of the fields of the second input that are handed on, in their order. */
  readonly taken: readonly string[];
  /** One partner a row is kept, the first by this order; null where all are. */
  readonly one: readonly PartnerOrder[] | null;
  /** Why it is right that rows are multiplied; empty where nobody said so. */
  readonly accepted: string;
}

export interface CheckedJoin {
  readonly pairs: readonly CheckedPair[];
  /** Whether rows can meet several, as far as keys tell. */
  readonly many: Multiplying;
}

export const joinFieldShape: z.ZodType<JoinField> = z.strictObject({ id: idShape, from: idShape, name: z.string().max(200) });
export const partnerOrderShape: z.ZodType<PartnerOrder> = z.strictObject({ field: idShape, descending: z.boolean() });

const shape: z.ZodType<JoinStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('join'),
  pairs: z.array(pairShape).max(50),
  keeps: keptShape,
  everyPair: z.boolean(),
  role: rowWordsShape.nullable(),
  fields: z.array(joinFieldShape).max(5_000),
  taken: z.array(idShape).max(5_000),
  one: z.array(partnerOrderShape).max(20).nullable(),
  accepted: z.string().max(1_000),
});

const pairs: ItemList<JoinPair> = {
  shape: pairShape,
  sentence: (change: ItemChange) => {
    const words = (pair: unknown) => `“${pairWords(pair as JoinPair)}”`;
    return change.did === 'changed'
      ? `changed the pair ${words(change.from)} to ${words(change.to)}`
      : `${change.did} the pair ${words(change.item)}`;
  },
};

const said = ({ to, title }: PropertyChange) => {
  const name = joinName(to as Kept);
  return `changed which rows ${title} keeps${name === undefined ? '' : ` (${name})`}`;
};

export const joinKind: StepKind<JoinStep, CheckedJoin> = {
  kind: 'join',
  inputs: { least: 2, most: 2, role: (slot) => (slot === 0 ? 'rows' : 'partners') },
  shape,
  properties: {
    keeps: said,
    pairs: ({ title }) => `changed the pairs of ${title}`,
    everyPair: ({ to, title }) => (to === true ? `asked for every pair of rows in ${title}` : `took back every pair of rows in ${title}`),
    role: ({ to, title }) =>
      to === null ? `took back what partners are called in ${title}` : `called the partners in ${title} ${(to as RowWords).rows}`,
    fields: ({ title }) => `changed the fields brought in by ${title}`,
    taken: ({ to, title }) => `took ${(to as readonly string[]).length} fields of the partners in ${title}`,
    one: ({ to, title }) => (to === null ? `kept all partners in ${title}` : `kept one partner per row in ${title}`),
    accepted: ({ to, title }) => (to === '' ? `took back the note of ${title}` : `accepted that ${title} multiplies rows`),
  },
  lists: { pairs },
  mints: (step) => step.fields.map((each) => each.id),
  sources: () => [],
  carries,
  origin: (step, id) => {
    const field = step.fields.find((each) => each.id === id);
    return field && { fields: [field.from], how: 'brought in from a partner' };
  },
  check,
  sentence: (step, [, right = NOTHING_ARRIVES]) => {
    const partner = step.role?.row ?? right.grain.row;
    if (step.everyPair && step.pairs.length === 0) return `meets every ${partner}`;
    const meets = `meets its ${partner || '…'}`;
    return step.pairs.length === 0 ? meets : `${meets} where ${listedWords(step.pairs.map(pairWords))}`;
  },
  mentions: ({ step, checked }, parameters) =>
    step.pairs.flatMap((pair) =>
      mentionsIn(usesOf(pair, parameters), checked.pairs.find((each) => each.pair.id === pair.id)?.condition, parameters),
    ),
  unasked: () => undefined,
  relation: joinRelation,
  rows: joinRows,
  counted: { by: 'a statement of its own' },
  followed: followedThroughJoin,
  written: (step) => step.pairs.flatMap(textsOfPair),
  uses: (step, parameters) => [
    ...step.pairs.flatMap((each) => usesOf(each, parameters)),
    ...step.fields.filter((each) => step.taken.includes(each.id)).map((each) => ({ kind: 'field' as const, id: each.from })),
    ...(step.one ?? []).map((each) => ({ kind: 'field' as const, id: each.field })),
  ],
  renamed: (step, kind, id, name) => ({
    ...step,
    pairs: step.pairs.map((each) => withTexts(each, (text) => renameReference(text, kind, id, name))),
  }),
  fieldName: (step, id) => step.fields.find((each) => each.id === id)?.name,
  withFieldNamed: (step, id, name) => ({ ...step, fields: step.fields.map((each) => (each.id === id ? { ...each, name } : each)) }),
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    inputs: step.inputs.map((each) => each && idOf(each)),
    pairs: step.pairs.map((each) => ({ ...withTexts(each, (text) => expressionIds(text, idOf)), id: idOf(each.id) })),
    fields: step.fields.map(({ id, from, name }) => ({ id: idOf(id), from: idOf(from), name })),
    taken: step.taken.map(idOf),
    one: step.one && step.one.map((each) => ({ ...each, field: idOf(each.field) })),
  }),
  withoutValues: (step) => ({
    ...step,
    name: '',
    accepted: '',
    pairs: step.pairs.map((pair) => withTexts(pair, withoutLiterals)),
  }),
};

/** Fields alone hold no value; anything else written may. */
const withoutLiterals = (text: ExpressionText): ExpressionText => (fieldOfText(text) === undefined ? { text: '', refs: [] } : text);

const usesOf = (pair: JoinPair, parameters: readonly Parameter[]) =>
  textsOfPair(pair).flatMap((text) => [...text.refs, ...linkReferences(text.text, { schema: { fields: [] }, parameters }).refs]);

function check(step: JoinStep, [left = NOTHING_ARRIVES, right = NOTHING_ARRIVES]: readonly Arriving[], context: CheckContext) {
  const partners = partnerFields(step, right.schema);
  const shared = { parameters: context.parameters, calendar: context.calendar, budget: context.budget, withoutOtherRows: ONE_BY_ONE };
  const own = { fields: partners };
  const checked = step.pairs.map((each) =>
    checkPair(each, {
      left: { ...shared, schema: left.schema },
      right: { ...shared, schema: own },
      both: { ...shared, schema: { fields: [...left.schema.fields, ...partners] } },
    }),
  );
  const many = multiplying(step, checked, left, right);
  const found: readonly Problem[] = [
    ...checked.flatMap((each) => each.problems),
    ...ownProblems(
      step,
      partners.map((each) => each.id),
    ),
    ...(checked.every((each) => each.problems.length === 0) && breaksGrain(step, many) && step.accepted === ''
      ? [many.right ? severalOnBothSides : severalPartners(step, left, right)]
      : []),
  ];
  return {
    schema: joinSchema(step, [left, right], partners, many),
    grain: joinGrain(step, left, right, many),
    problems: [
      ...found.map((each) => ({ ...each, place: { ...each.place, step: step.id } })),
      ...fieldProblems(step, left.schema, right.schema),
    ],
    checked: { pairs: checked, many },
  };
}

const ONE_BY_ONE = 'A pair looks at one row of each side, and this is computed over other rows.';

/** Whether rows of the first side may stand in several rows behind the join, which was not asked for by name. */
export const breaksGrain = ({ pairs, keeps }: JoinStep, many: Multiplying): boolean => many.left && keeps.met && pairs.length > 0;

const severalPartners = (step: JoinStep, left: Arriving, right: Arriving) => {
  const partner = step.role?.row ?? right.grain.row;
  const row = withArticle(left.grain.row);
  return warning(
    'join-multiplies',
    `No key tells that ${row} meets one ${partner} at most: from here on one row is ${row} and ${withArticle(partner)}.`,
    {},
    'a pair more, one partner per row, or a note that this is meant',
  );
};

const severalOnBothSides = warning(
  'join-multiplies',
  'No key tells that a row meets one partner at most, from either side: both may be multiplied.',
  {},
  'a pair more, one partner per row, or a note that this is meant',
);

function ownProblems(step: JoinStep, partners: readonly string[]): readonly Problem[] {
  const { keeps, pairs: written, everyPair, one } = step;
  const nothing = !keeps.met && !keeps.left && !keeps.right;
  const goneOrder = (one ?? []).some((each) => !partners.includes(each.field));
  return [
    ...(written.length === 0 && !everyPair
      ? [problem('pairs-missing', 'Nothing says yet which rows meet.', {}, 'a pair of fields, or every pair of rows asked for by name')]
      : []),
    ...(nothing ? [problem('nothing-kept', 'Every outcome is left out, so no row is left.', {}, 'at least one outcome kept')] : []),
    ...(one?.length === 0
      ? [problem('order-missing', 'Nothing says which partner is kept.', {}, 'a field of the partners to order by')]
      : []),
    ...(goneOrder ? [problem('field-gone', 'A field the kept partner is chosen by is gone.', {}, 'another field of the partners')] : []),
  ];
}

/** The name a field of the second input gets: its own, with what the partners are called in front where that is taken. */
export function partnerName(name: string, role: string, taken: ReadonlySet<string>): string {
  if (!taken.has(name)) return name;
  return freeName(inFront(role, name), taken);
}

const inFront = (role: string, name: string) => `${role.trim().replace(/\s+/g, '_')}_${name}`;

/** The words that stand in front of the names of fields that would clash, while the partners have no role. */
export const calledInFront = (right: Arriving): string => right.grain.rows.replace(/^rows of /, '');

/**
 * The fields of the second input when its rows come in another role: names that had the old one in front have the new
 * one; names of their own, and typed ones, stay.
 */
export function fieldsInRole(step: JoinStep, [left, right]: readonly [Arriving, Arriving], role: RowWords | null): readonly JoinField[] {
  const called = calledInFront(right);
  const own = new Map(right.schema.fields.map((each) => [each.id, each.name]));
  const made = (each: JoinField) => {
    const name = own.get(each.from);
    return name !== undefined && isMade(each.name, inFront(step.role?.row ?? called, name));
  };
  if (!step.fields.some(made)) return step.fields;
  const names = new Set([...left.schema.fields, ...step.fields.filter((each) => !made(each))].map((each) => each.name));
  return step.fields.map((each) => {
    if (!made(each)) return each;
    const name = freeName(inFront(role?.row ?? called, own.get(each.from) ?? each.name), names);
    names.add(name);
    return name === each.name ? each : { ...each, name };
  });
}

/** A name as it was made, or with a number behind it because it was taken. */
const isMade = (name: string, as: string) => name === as || (name.startsWith(`${as}_`) && /^\d+$/.test(name.slice(as.length + 1)));

/** A join of two steps that asks for no pair yet; no field of the second is taken. */
export function joinStep(
  mint: () => string,
  [first, second]: readonly [string, string],
  [left, right]: readonly [Arriving, Arriving],
  called: string,
  role: RowWords | null = null,
): JoinStep {
  const names = new Set(left.schema.fields.map((each) => each.name));
  const fields = right.schema.fields.map((field): JoinField => {
    const name = partnerName(field.name, role?.row ?? called, names);
    names.add(name);
    return { id: mint(), from: field.id, name };
  });
  return {
    id: mint(),
    kind: 'join',
    name: '',
    off: false,
    inputs: [first, second],
    pairs: [],
    keeps: { met: true, left: true, right: false },
    everyPair: false,
    role,
    fields,
    taken: [],
    one: null,
    accepted: '',
  };
}

/** Fields of the second input that came after the join was made, under ids and names of their own. */
export function newPartnerFields(
  mint: () => string,
  step: JoinStep,
  left: Arriving,
  right: Arriving,
  called: string,
): readonly JoinField[] {
  const known = new Set(step.fields.map((each) => each.from));
  const names = new Set([...left.schema.fields, ...step.fields].map((each) => each.name));
  return right.schema.fields.flatMap((field) => {
    if (known.has(field.id)) return [];
    const name = partnerName(field.name, step.role?.row ?? called, names);
    names.add(name);
    return [{ id: mint(), from: field.id, name }];
  });
}
