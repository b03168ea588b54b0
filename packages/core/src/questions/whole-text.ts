import { call, cast, wholeLiteral } from '../expressions';
import type { FieldId } from '../fields';
import { fieldById, text, whole } from '../fields';
import { relationAfter } from '../planning';
import { refuse } from '../problem';
import type { Relation } from '../sql';
import { calculatedColumn, valueOf } from '../sql';
import type { Questioning } from '../steps';
import { checkedStep } from '../trail';
import type { Identity } from './follow';
import { conditionOf } from './follow';
import type { QuestionContext } from './question';

/** A text of one row that is longer than what was brought of it: as far as it is given, and how many characters it has. */
export interface WholeText {
  readonly text: string | null;
  readonly length: string;
}

/** So many characters are given of one text; a file of all rows has the rest. */
export const TEXT_SHOWN = 200_000;

/** The text of a field in the row a step knows by some fields. Throws a ProblemError where these do not tell one row. */
export function* wholeText(
  { trail, binding }: QuestionContext,
  step: string,
  fieldId: FieldId,
  identity: Identity,
): Questioning<WholeText> {
  const checked = checkedStep(trail, step);
  const field = checked && fieldById(checked.schema, fieldId);
  if (!checked || !field) return refuse('field-gone', 'The field asked about is not there any more.', { step, field: fieldId });
  const input: Relation = { node: 'filter', input: relationAfter(trail, step, binding), condition: conditionOf(checked.schema, identity) };
  const value = cast(valueOf(field), text);
  const columns = [
    calculatedColumn('text', call('substring', text, value, wholeLiteral(1), wholeLiteral(TEXT_SHOWN))),
    calculatedColumn('length', call('charLength', whole, value)),
  ];
  const rows = yield { relation: { node: 'calculate', input, kept: [], fields: columns }, columns, limit: 2 };
  const [row, other] = rows;
  if (!row || other)
    return refuse(
      'row-untold',
      other ? 'Several rows have these values.' : 'The row is not there any more.',
      { step },
      'fields that tell rows apart',
    );
  return { text: row[0] ?? null, length: row[1] ?? '0' };
}
