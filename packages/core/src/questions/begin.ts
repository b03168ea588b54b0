import { z } from 'zod';
import { idShape as id } from '../ids';
import { fieldById } from '../fields';
import { relationArriving } from '../planning';
import { refuse } from '../problem';
import type { Questioning } from '../steps';
import { arrivingAt } from '../trail';
import { choices, knownChoices } from './choices';
import type { ClauseCounts } from './clause-counts';
import { clauseCounts } from './clause-counts';
import type { Followed, Identity } from './follow';
import { followRow } from './follow';
import type { QuestionContext } from './question';
import type { FoundValues, KnownValues, ValueOrigin } from './values';
import { knownValues, listValues } from './values';

/** What can be asked about a dataset's rows besides the rows themselves. */
export type Question =
  /** How many rows each clause of a criteria step passes. */
  | { readonly kind: 'clauses'; readonly step: string }
  /** Values of a field that arrive at a step, most rows first. */
  | { readonly kind: 'values'; readonly step: string; readonly field: string; readonly search: string }
  /** Which of some values arrive at a step, and the nearest to those that do not. */
  | { readonly kind: 'known'; readonly step: string; readonly field: string; readonly values: readonly string[] }
  /** The choices of a parameter as they are narrowed now. */
  | { readonly kind: 'choices'; readonly parameter: string; readonly search: string }
  | { readonly kind: 'known choices'; readonly parameter: string; readonly values: readonly string[] }
  /** What became of a row, from its table to a step. */
  | { readonly kind: 'follow'; readonly step: string; readonly identity: Identity };

export interface Answers {
  readonly clauses: ClauseCounts;
  readonly values: FoundValues;
  readonly known: KnownValues;
  readonly choices: FoundValues;
  readonly 'known choices': KnownValues;
  readonly follow: Followed;
}

const value = z.string().max(10_000);
const values = z.array(value).max(100_000);

/** The form of a received question; whether it fits the dataset shows when it is asked. */
export const questionShape: z.ZodType<Question> = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('clauses'), step: id }),
  z.strictObject({ kind: z.literal('values'), step: id, field: id, search: z.string().max(200) }),
  z.strictObject({ kind: z.literal('known'), step: id, field: id, values }),
  z.strictObject({ kind: z.literal('choices'), parameter: id, search: z.string().max(200) }),
  z.strictObject({ kind: z.literal('known choices'), parameter: id, values }),
  z.strictObject({
    kind: z.literal('follow'),
    step: id,
    identity: z
      .array(z.strictObject({ field: id, value: value.nullable() }))
      .min(1)
      .max(300),
  }),
]);

/** The question as rows wanted one after the other and an answer. Throws a ProblemError for what does not fit the dataset. */
export function beginQuestion<Q extends Question>(context: QuestionContext, question: Q): Questioning<Answers[Q['kind']]>;
export function beginQuestion(context: QuestionContext, question: Question): Questioning<Answers[Question['kind']]> {
  switch (question.kind) {
    case 'clauses':
      return clauseCounts(context, question.step);
    case 'values':
      return listValues(originAt(context, question.step, question.field), question.search, 'most rows first');
    case 'known':
      return knownValues(originAt(context, question.step, question.field), question.values);
    case 'choices':
      return choices(context, question.parameter, question.search);
    case 'known choices':
      return knownChoices(context, question.parameter, question.values);
    case 'follow':
      return followRow(context, question.step, question.identity);
  }
}

/** The steps whose rows a question is about, for rights and for what has to be known of sources. */
export function stepOfQuestion(question: Question): string | undefined {
  return 'step' in question ? question.step : undefined;
}

function originAt({ trail, binding }: QuestionContext, stepId: string, fieldId: string): ValueOrigin {
  const field = fieldById(arrivingAt(trail, stepId), fieldId);
  if (!field) return refuse('field-gone', 'The field asked about does not arrive at this step.', { step: stepId, field: fieldId });
  if (field.type.kind === 'json')
    return refuse('field-unsuited', 'Values of JSON fields are not listed.', { step: stepId, field: fieldId });
  return { relation: relationArriving(trail, stepId, binding), value: field };
}
