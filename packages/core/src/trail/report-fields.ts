import type { Problem } from '../problem';
import { warning } from '../problem';
import { layoutProblems, titleProblems } from '../grouping';
import type { SheetField } from '../sheet';
import { sheetFields, sheetProblems } from '../sheet';
import { ofKind } from '../steps';
import type { TrailOutline } from './checked-trail';
import { resultStep } from './checked-trail';

type Of = Pick<TrailOutline, 'definition' | 'steps'>;

/** The fields of the step that is handed over as the field sheet has them, those for use only among them. */
export function reportFields(trail: Of): readonly SheetField[] {
  const { sheet, order, calendar } = trail.definition;
  return sheetFields(resultStep(trail)?.schema ?? { fields: [] }, sheet, order, calendar);
}

/** What is unfit about the field sheet and the proof. */
export function reportFieldProblems(trail: Of): readonly Problem[] {
  const fields = reportFields(trail);
  const { proof, parameters } = trail.definition;
  return [
    ...sheetProblems(fields),
    ...layoutProblems(proof, fields, parameters),
    ...titleProblems(proof, fields),
    ...averagesOfAverages(trail, fields),
  ];
}

/** An average that is averaged once more: each group counts once in it, however many rows it was made of. */
function averagesOfAverages({ definition: { proof, steps } }: Of, fields: readonly SheetField[]): readonly Problem[] {
  const averages = new Set(
    steps.flatMap((each) =>
      (ofKind('summarise', each)?.values ?? []).flatMap(({ id, aggregate }) => (aggregate === 'average' ? [id] : [])),
    ),
  );
  return fields.flatMap(({ id, name }) =>
    averages.has(id) && proof.totals?.some((each) => each.field === id && each.aggregate === 'average') === true
      ? [
          warning(
            'average-of-averages',
            `The average of ${name} is one of averages: each counts once, however many rows it was made of.`,
            { field: id },
            'the average of the rows, or a sum beside a count',
          ),
        ]
      : [],
  );
}
