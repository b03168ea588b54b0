import type { Field } from '../fields';
import { readIn } from '../fields';
import { refuse } from '../problem';
import type { Relation } from '../sql';
import { statementsIn, tokensOf, writtenWith } from '../statements';
import type { CheckedOf, DescribedPart, Questioning, WireRow } from '../steps';
import { checkedOf, parametersNamed } from '../steps';
import { checkedStep } from '../trail';
import type { QuestionContext } from './question';

/** The first rows of a part of a text. */
export interface PartRows {
  readonly fields: readonly Pick<Field, 'name' | 'type'>[];
  readonly rows: readonly WireRow[];
  /** There may be more. */
  readonly cut: boolean;
}

/** So many rows of each part, and so many parts at once. */
export const PART_ROWS = 200;
export const MOST_PARTS = 50;

/** Parts of a step's text, each as a statement of its own, all in one moment and with the values in use. Throws a ProblemError for what does not fit. */
export function* partRows(
  { trail, binding }: QuestionContext,
  step: string,
  parts: readonly DescribedPart[],
): Questioning<readonly PartRows[]> {
  const sql = checkedOf('sql', checkedStep(trail, step));
  if (!sql) return refuse('step-gone', 'This text is not in the dataset any more.', { step });
  const answers: PartRows[] = [];
  for (const part of parts) {
    const { relation, columns } = partRelation({ trail, binding }, sql, part);
    const rows = yield { relation, columns, limit: PART_ROWS };
    answers.push({ fields: columns.map(({ name, type }) => ({ name, type })), rows, cut: rows.length === PART_ROWS });
  }
  return answers;
}

/** A part of a text as rows. Throws a ProblemError where it is no statement. */
export function partRelation(
  { trail, binding }: Pick<QuestionContext, 'trail' | 'binding'>,
  { step }: Pick<CheckedOf<'sql'>, 'step'>,
  { text, met, fields }: DescribedPart,
) {
  const { zone } = trail.definition.calendar;
  const [statement] = statementsIn(tokensOf(text));
  if (!statement) return refuse('text-empty', 'There is no statement in this part.', { step: step.id });
  const parameters = parametersNamed({ text, refs: step.sql.refs }, trail.definition.parameters);
  const columns = fields.map(({ name, sourceType, type, looseText }, at) => ({
    id: `part ${at}`,
    name,
    type: readIn(zone, type),
    column: name,
    sourceType,
    looseText,
  }));
  const relation: Relation = {
    node: 'text',
    site: { kind: 'source', source: step.source },
    step: step.id,
    parts: writtenWith(text, statement, parameters, met, binding),
    given: fields.map(({ name, column, sourceType }) => ({ name, column, sourceType })),
    columns,
  };
  return { relation, columns };
}
