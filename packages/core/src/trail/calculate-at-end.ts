import { checkExpression, linkReferences } from '../expressions';
import type { FieldId } from '../fields';
import type { Problem } from '../problem';
import { problem } from '../problem';
import { safeName, sheetFields } from '../sheet';
import type { SheetField } from '../sheet';
import { calculatedField, calculateStep, ofKind } from '../steps';
import { beginning } from '../values';
import type { Mint } from './build';
import { addItem, addStepAfter } from './build';
import { resultStep } from './checked-trail';
import type { CheckedTrail } from './checked-trail';
import type { Edit } from './edits';

/** A name made of an expression is no longer than this. */
const MOST_NAMED = 40;

/** Why an expression over what is handed over cannot be calculated; undefined where it can. */
export function notCalculated(trail: CheckedTrail, text: string): Problem | undefined {
  const checked = checkedAtEnd(trail, text);
  if (!checked) return problem('result-missing', 'No step is handed over, so there is nothing to calculate with.', {}, 'a step that is');
  return checked.problems[0];
}

/** An expression over what is handed over; undefined where nothing is. */
function checkedAtEnd(trail: CheckedTrail, text: string) {
  const { parameters, calendar } = trail.definition;
  const schema = resultStep(trail)?.schema;
  return schema && checkExpression(text, { schema, parameters, calendar });
}

/**
 * The edits that calculate an expression behind everything, in the step that is handed over where that calculates, else in a
 * new one behind it; and the field as it will be handed over. Undefined where it cannot be calculated.
 */
export function calculatedAtEnd(
  trail: CheckedTrail,
  text: string,
  mint: Mint,
): { readonly edits: readonly Edit[]; readonly field: SheetField } | undefined {
  const { definition } = trail;
  const last = resultStep(trail);
  const expression = checkedAtEnd(trail, text)?.expression;
  if (!last || !expression) return undefined;
  const { schema } = last;
  const name = safeName(
    beginning(text, MOST_NAMED),
    schema.fields.map((each) => each.name),
  );
  const calculated = { id: mint() as FieldId, name, expression: linkReferences(text, { schema, parameters: definition.parameters }) };
  const own = last.step.off ? undefined : ofKind('calculate', last.step);
  const made = { ...calculateStep(mint, last.step.id), fields: [calculated] };
  const edits = own ? [addItem(own, 'fields', calculated, own.fields.length)] : [addStepAfter(definition, last.step.id, made)];
  const [field] = sheetFields({ fields: [calculatedField(calculated, expression, (own ?? made).id, schema.fields)] }, [], []);
  return field && { edits, field };
}
