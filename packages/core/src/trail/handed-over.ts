import type { Problem } from '../problem';
import { layoutProblems } from '../grouping';
import type { SheetField } from '../sheet';
import { sheetFields, sheetProblems } from '../sheet';
import type { Schema } from '../fields';
import type { Definition } from './definition';

/** The fields of the last step as the field sheet has them, those for use only among them. */
export function handedOver({
  definition,
  steps,
}: {
  readonly definition: Definition;
  readonly steps: readonly { readonly schema: Schema }[];
}): readonly SheetField[] {
  return sheetFields(steps.at(-1)?.schema ?? { fields: [] }, definition.sheet, definition.order);
}

/** What is unfit about the field sheet and the proof. */
export function handedOverProblems(of: Parameters<typeof handedOver>[0]): readonly Problem[] {
  const fields = handedOver(of);
  return [...sheetProblems(fields), ...layoutProblems(of.definition.proof, fields)];
}
