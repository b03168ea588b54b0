import type { FieldId } from '../fields';
import type { Step } from '../steps';
import { arrangeStep, ofKind } from '../steps';
import type { Definition } from '../trail';
import { checkedStep, checkTrail, emptyDefinition, takenAt } from '../trail';

/** Steps with the one whose rows are wanted. */
export interface StepsWithResult {
  readonly steps: readonly Step[];
  readonly result: string;
}

/**
 * Steps that hand on these fields in this order and no others: tables and joins take what is among them, and where that is
 * not enough the last step says it.
 */
export function handingOn(
  { steps, result }: StepsWithResult,
  fields: readonly FieldId[],
  around: Pick<Definition, 'parameters' | 'calendar'>,
  mint: () => string,
): StepsWithResult {
  // Choices on the way hand on what they name, and can only where it is handed to them.
  const chosen = steps.flatMap((each) => (ofKind('arrange', each)?.fields ?? []).map(({ field }) => field));
  const wanted = [...new Set([...fields, ...chosen])];
  const taking = steps.map((step): Step => {
    const taking = takenAt(step);
    if (!taking) return step;
    const own = new Set(taking.fields.map(({ id }: { readonly id: FieldId }) => id));
    return { ...taking, taken: wanted.filter((each) => own.has(each)) };
  });
  const trail = checkTrail({ ...emptyDefinition(''), ...around, steps: taking, result });
  const handed = checkedStep(trail, result)?.schema.fields.filter((each) => !each.forUseOnly) ?? [];
  if (handed.map(({ id }) => id).join() === fields.join()) return { steps: taking, result };
  const entries = fields.map((field) => ({ field, forUseOnly: false }));
  const last = ofKind('arrange', taking.at(-1));
  if (last?.id === result) return { steps: [...taking.slice(0, -1), { ...last, fields: entries }], result };
  const arrange = { ...arrangeStep(mint, result), fields: entries };
  return { steps: [...taking, arrange], result: arrange.id };
}
