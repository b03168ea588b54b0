import { z } from 'zod';
import { idShape as id } from '../ids';
import { expressionTextShape } from '../criteria';
import type { ExpressionText } from '../expressions';
import { fieldById } from '../fields';
import { relationAfter, relationArriving } from '../planning';
import { refuse } from '../problem';
import type { DescribedPart, Questioning } from '../steps';
import { partShape, stepShape } from '../steps';
import { arrivingAt, checkedStep } from '../trail';
import { relationAtClause } from './active-clauses';
import { choices, knownChoices } from './choices';
import type { ClauseCounts } from './clause-counts';
import { clauseCounts } from './clause-counts';
import type { Conversion } from './conversions';
import { conversions } from './conversions';
import type { Followed, Identity } from './follow';
import { followRow } from './follow';
import { inWireForm } from './in-wire-form';
import { pairShape } from '../joins';
import type { ExpectedEvidence, JoinEvidence, JoinPlace, JoinTried, NearMisses, PairedFields, PartnerTies, Share } from './joins';
import { expectedEvidence, joinEvidence, nearMisses, partnerTies, shares } from './joins';
import type { QuestionContext } from './question';
import type { Counted, Nested } from './summaries';
import { countThree, nestedKeys } from './summaries';
import type { EveryValue, FoundValues, KnownValues, ValueOrigin } from './values';
import type { PartRows } from './parts';
import { MOST_PARTS, partRows } from './parts';
import type { SameRows, StepsInstead } from './same-rows';
import { sameRows } from './same-rows';
import type { Swept } from './sweep';
import { sweep, SWEPT_FIELDS, SWEPT_MOST } from './sweep';
import type { WholeText } from './whole-text';
import { wholeText } from './whole-text';
import { everyValue, knownValues, listValues } from './values';

/** What can be asked about a dataset's rows besides the rows themselves. */
export type Question =
  /** How many rows each clause of a criteria step passes. */
  | { readonly kind: 'clauses'; readonly step: string }
  /** Values of a field that arrive at a step, or at a clause of it, most rows first. */
  | { readonly kind: 'values'; readonly step: string; readonly field: string; readonly search: string; readonly clause?: string }
  /** All values a field has in the rows a step gives, each with those of other fields it stands beside. */
  | { readonly kind: 'every value'; readonly step: string; readonly field: string; readonly within: readonly string[] }
  /** Which of some values arrive at a step, and the nearest to those that do not. */
  | { readonly kind: 'known'; readonly step: string; readonly field: string; readonly values: readonly string[] }
  /** The choices of a parameter as they are narrowed now. */
  | { readonly kind: 'choices'; readonly parameter: string; readonly search: string }
  | { readonly kind: 'known choices'; readonly parameter: string; readonly values: readonly string[] }
  /** The three ways to count an expression in the rows that arrive at a summary. */
  | { readonly kind: 'counting'; readonly step: string; readonly of: ExpressionText; readonly among: ExpressionText }
  /** Which keys of a summary lie within which others. */
  | { readonly kind: 'nesting'; readonly step: string }
  /** What would make fields of different types that stand in one place one, and what it would lose. */
  | { readonly kind: 'conversions'; readonly step: string; readonly field: string }
  /** What becomes of the rows of both sides of a join; parts of it can be tried before they are kept. */
  | ({ readonly kind: 'evidence' } & JoinPlace & TriedParts)
  /** What the source expects of them, before they are counted. */
  | ({ readonly kind: 'expected evidence' } & JoinPlace)
  /** Values that would meet if differences of writing were overlooked. */
  | ({ readonly kind: 'near misses'; readonly pair: string } & JoinPlace)
  /** How many rows of a join the order of its one partner does not decide. */
  | ({ readonly kind: 'partner ties' } & JoinPlace)
  /** How many values of fields stand on both sides of a join, for each of some proposals. */
  | ({ readonly kind: 'shares'; readonly proposals: readonly PairedFields[] } & JoinPlace)
  /** A step's rows for each of some values of a parameter, in few figures. */
  | {
      readonly kind: 'sweep';
      readonly step: string;
      readonly parameter: string;
      readonly values: readonly (readonly string[])[];
      readonly fields: readonly string[];
      /** A part of its text instead. */
      readonly part?: DescribedPart;
    }
  /** Parts of a text, each by its first rows. */
  | { readonly kind: 'parts'; readonly step: string; readonly parts: readonly DescribedPart[] }
  /** Whether steps in the place of a text give the same rows. */
  | ({ readonly kind: 'same rows'; readonly step: string } & StepsInstead)
  /** A text of one row, as long as it is given at once. */
  | { readonly kind: 'text'; readonly step: string; readonly field: string; readonly identity: Identity }
  /** What became of a row, from its table to a step. */
  | { readonly kind: 'follow'; readonly step: string; readonly identity: Identity };

interface TriedParts {
  readonly tried?: Pick<JoinTried, 'pairs' | 'everyPair'>;
}

export interface Answers {
  readonly clauses: ClauseCounts;
  readonly values: FoundValues;
  readonly 'every value': EveryValue;
  readonly known: KnownValues;
  readonly choices: FoundValues;
  readonly 'known choices': KnownValues;
  readonly evidence: JoinEvidence;
  readonly 'expected evidence': ExpectedEvidence;
  readonly 'near misses': NearMisses;
  readonly 'partner ties': PartnerTies;
  readonly shares: readonly Share[];
  readonly counting: Counted;
  readonly nesting: readonly Nested[];
  readonly conversions: readonly Conversion[];
  readonly sweep: Swept;
  readonly parts: readonly PartRows[];
  readonly 'same rows': SameRows;
  readonly text: WholeText;
  readonly follow: Followed;
}

const value = z.string().max(10_000);
const values = z.array(value).max(100_000);

const identityShape = z
  .array(z.strictObject({ field: id, value: value.nullable() }))
  .min(1)
  .max(300);

/** The form of a received question; whether it fits the dataset shows when it is asked. */
export const questionShape: z.ZodType<Question> = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('clauses'), step: id }),
  z.strictObject({ kind: z.literal('values'), step: id, field: id, search: z.string().max(200), clause: id.optional() }),
  z.strictObject({ kind: z.literal('every value'), step: id, field: id, within: z.array(id).max(10) }),
  z.strictObject({ kind: z.literal('known'), step: id, field: id, values }),
  z.strictObject({ kind: z.literal('choices'), parameter: id, search: z.string().max(200) }),
  z.strictObject({ kind: z.literal('known choices'), parameter: id, values }),
  z.strictObject({
    kind: z.literal('evidence'),
    step: id,
    partner: id.optional(),
    tried: z.strictObject({ pairs: z.array(pairShape).max(50).optional(), everyPair: z.boolean().optional() }).optional(),
  }),
  z.strictObject({ kind: z.literal('expected evidence'), step: id, partner: id.optional() }),
  z.strictObject({ kind: z.literal('near misses'), step: id, partner: id.optional(), pair: id }),
  z.strictObject({ kind: z.literal('partner ties'), step: id, partner: id.optional() }),
  z.strictObject({
    kind: z.literal('shares'),
    step: id,
    partner: id.optional(),
    proposals: z
      .array(
        z
          .array(z.strictObject({ left: id, right: id }))
          .min(1)
          .max(20),
      )
      .max(20),
  }),
  z.strictObject({ kind: z.literal('counting'), step: id, of: expressionTextShape, among: expressionTextShape }),
  z.strictObject({ kind: z.literal('nesting'), step: id }),
  z.strictObject({ kind: z.literal('conversions'), step: id, field: id }),
  z.strictObject({ kind: z.literal('parts'), step: id, parts: z.array(partShape).min(1).max(MOST_PARTS) }),
  z.strictObject({
    kind: z.literal('sweep'),
    step: id,
    parameter: id,
    values: z.array(z.array(value).max(1_000)).min(1).max(SWEPT_MOST),
    fields: z.array(id).max(SWEPT_FIELDS),
    part: partShape.optional(),
  }),
  z.strictObject({
    kind: z.literal('same rows'),
    step: id,
    steps: z.array(stepShape).min(1).max(200),
    result: id,
    fields: z.array(id).max(2_000),
    off: z.array(id).max(200),
  }),
  z.strictObject({ kind: z.literal('text'), step: id, field: id, identity: identityShape }),
  z.strictObject({ kind: z.literal('follow'), step: id, identity: identityShape }),
]) as z.ZodType<Question>;

/** The question as rows wanted one after the other and an answer. Throws a ProblemError for what does not fit the dataset. */
export function beginQuestion<Q extends Question>(context: QuestionContext, question: Q): Questioning<Answers[Q['kind']]>;
export function beginQuestion(context: QuestionContext, question: Question): Questioning<Answers[Question['kind']]> {
  return inWireForm(asked(context, question));
}

function asked(context: QuestionContext, question: Question): Questioning<Answers[Question['kind']]> {
  switch (question.kind) {
    case 'clauses':
      return clauseCounts(context, question.step);
    case 'values':
      return listValues(originAt(context, question.step, question.field, question.clause), question.search, 'most rows first');
    case 'every value':
      return everyValueAt(context, question);
    case 'known':
      return knownValues(originAt(context, question.step, question.field), question.values);
    case 'choices':
      return choices(context, question.parameter, question.search);
    case 'known choices':
      return knownChoices(context, question.parameter, question.values);
    case 'evidence':
      return joinEvidence(context, question, question.tried);
    case 'expected evidence':
      return expectedEvidence(context, question);
    case 'near misses':
      return nearMisses(context, question, question.pair);
    case 'partner ties':
      return partnerTies(context, question);
    case 'shares':
      return shares(context, question, question.proposals);
    case 'counting':
      return countThree(context, question.step, question.of, question.among);
    case 'nesting':
      return nestedKeys(context, question.step);
    case 'conversions':
      return conversions(context, question.step, question.field);
    case 'sweep':
      return sweep(context, question.step, question.parameter, question.values, question.fields, question.part);
    case 'parts':
      return partRows(context, question.step, question.parts);
    case 'same rows':
      return sameRows(context, question.step, question);
    case 'text':
      return wholeText(context, question.step, question.field, question.identity);
    case 'follow':
      return followRow(context, question.step, question.identity);
  }
}

/** Whether a question is about both inputs of a join, whose own rows need not be there. */
export const isAboutJoin = ({ kind }: Question): boolean =>
  ['evidence', 'expected evidence', 'near misses', 'partner ties', 'shares'].includes(kind);

/** Whether a question needs the rows of every input of its step, not of the first one only. */
export const needsEveryInput = (question: Question): boolean => isAboutJoin(question) || question.kind === 'conversions';

/** The steps whose rows a question is about, for rights and for what has to be known of sources. */
export function stepOfQuestion(question: Question): string | undefined {
  return 'step' in question ? question.step : undefined;
}

function everyValueAt(
  { trail, binding }: QuestionContext,
  { step, field, within }: Question & { kind: 'every value' },
): Questioning<EveryValue> {
  const checked = checkedStep(trail, step);
  const [value, ...beside] = [field, ...within].map((id) => {
    const found = checked && fieldById(checked.schema, id);
    if (found && found.type.kind !== 'json') return found;
    return refuse('field-gone', 'The field whose values are asked for is not at this step.', { step, field: id }, 'a field it has');
  });
  return value
    ? everyValue({ relation: relationAfter(trail, step, binding), value }, beside)
    : refuse('field-gone', 'No field is asked for.', { step });
}

function originAt(context: QuestionContext, stepId: string, fieldId: string, clause?: string): ValueOrigin {
  const { trail, binding } = context;
  const field = fieldById(arrivingAt(trail, stepId), fieldId);
  if (!field) return refuse('field-gone', 'The field asked about does not arrive at this step.', { step: stepId, field: fieldId });
  if (field.type.kind === 'json')
    return refuse('field-unsuited', 'Values of JSON fields are not listed.', { step: stepId, field: fieldId });
  const relation = clause === undefined ? relationArriving(trail, stepId, binding) : relationAtClause(context, stepId, clause);
  return { relation, value: field };
}
