import type { Problem } from '../problem';
import { layoutProblems } from '../grouping';
import type { SheetField } from '../sheet';
import { sheetFields, sheetProblems } from '../sheet';
import type { TrailOutline } from './checked-trail';
import { resultStep } from './checked-trail';

type Of = Pick<TrailOutline, 'definition' | 'steps'>;

/** The fields of the step that is handed over as the field sheet has them, those for use only among them. */
export function reportFields(trail: Of): readonly SheetField[] {
  const { sheet, order } = trail.definition;
  return sheetFields(resultStep(trail)?.schema ?? { fields: [] }, sheet, order);
}

/** What is unfit about the field sheet and the proof. */
export function reportFieldProblems(trail: Of): readonly Problem[] {
  const fields = reportFields(trail);
  return [...sheetProblems(fields), ...layoutProblems(trail.definition.proof, fields)];
}
