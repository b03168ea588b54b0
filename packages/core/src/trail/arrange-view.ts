import type { FieldId } from '../fields';
import { fieldById } from '../fields';
import type { ArrangeStep } from '../steps';
import { arrangeStep } from '../steps';
import type { Mint } from './build';
import { addStepAfter } from './build';
import type { CheckedTrail } from './checked-trail';
import { checkedStep } from './checked-trail';
import type { Edit } from './edits';

/** How rows are looked at: by what they are sorted, and which fields are shown in which order. */
export interface LookedAt {
  readonly sort: readonly { readonly field: FieldId; readonly descending: boolean }[];
  readonly shown: readonly FieldId[];
}

/**
 * Makes a step behind another one of how its rows are looked at: sorted so, with the fields in that order. Fields that
 * are not shown stay for use only; where all are shown as they come, nothing is said of fields.
 */
export function arrangeViewEdits(
  mint: Mint,
  trail: CheckedTrail,
  after: string,
  { sort, shown }: LookedAt,
): { readonly edits: readonly Edit[]; readonly step: string } {
  const schema = checkedStep(trail, after)?.schema ?? { fields: [] };
  const known = shown.filter((id) => fieldById(schema, id));
  const handed = schema.fields.filter((each) => !each.forUseOnly);
  const asTheyCome = known.length === handed.length && handed.every((each, at) => each.id === known[at]);
  const rest = schema.fields.filter((each) => !known.includes(each.id));
  const step: ArrangeStep = {
    ...arrangeStep(mint, after),
    sort: sort.map((each) => ({ ...each, id: mint(), nullsFirst: false })),
    fields: asTheyCome
      ? null
      : [...known.map((field) => ({ field, forUseOnly: false })), ...rest.map(({ id }) => ({ field: id, forUseOnly: true }))],
  };
  return { edits: [addStepAfter(trail.definition, after, step)], step: step.id };
}
