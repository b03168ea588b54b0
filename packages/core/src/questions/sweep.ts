import { sumType } from '../expressions';
import { fieldById, isNumber } from '../fields';
import { relationAfter } from '../planning';
import { refuse } from '../problem';
import type { MeasureColumn, Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';
import type { Questioning } from '../steps';
import { bindDefinition, checkedStep } from '../trail';
import type { QuestionContext } from './question';

/** A step's rows for each of some values of one parameter, in few figures. */
export interface Swept {
  readonly parameter: string;
  readonly fields: readonly SweptField[];
  readonly lines: readonly SweptLine[];
}

export interface SweptField {
  readonly field: string;
  readonly name: string;
  /** Whether it is a number, which has a sum. */
  readonly sums: boolean;
}

export interface SweptLine {
  /** As it was given: one value, or the ends of a range. */
  readonly values: readonly string[];
  /** Why there are no figures for it. */
  readonly problem?: string;
  readonly rows: string;
  /** By field, in their order: texts in wire form, null where there is no value. */
  readonly figures: readonly { readonly least: string | null; readonly greatest: string | null; readonly sum: string | null }[];
}

/** So many values at once, and fields. */
export const SWEPT_MOST = 100;
export const SWEPT_FIELDS = 6;

/** Runs a step once for each value, the other parameters as they are, all in one moment. Throws a ProblemError for what does not fit. */
export function* sweep(
  { trail, binding }: QuestionContext,
  step: string,
  parameter: string,
  values: readonly (readonly string[])[],
  fields: readonly string[],
): Questioning<Swept> {
  const checked = checkedStep(trail, step);
  const asked = trail.definition.parameters.find((each) => each.id === parameter);
  if (!checked) return refuse('step-gone', 'This step is not in the dataset any more.', { step });
  if (!asked) return refuse('parameter-gone', 'The parameter is not in the dataset any more.', { parameter });
  const chosen = fields.flatMap((id) => fieldById(checked.schema, id) ?? []).filter((each) => each.type.kind !== 'json');
  const told = chosen.map(({ id, name, type }): SweptField => ({ field: id, name, sums: isNumber(type) }));
  const lines: SweptLine[] = [];
  for (const given of values) {
    const own = bindDefinition(trail.definition, { ...binding.used, [parameter]: given }, binding.now);
    const [wrong] = own.problems.filter((each) => each.place.parameter === parameter);
    if (wrong) {
      lines.push({ values: given, problem: wrong.message, rows: '', figures: [] });
      continue;
    }
    const input = relationAfter(trail, step, own);
    const measures = chosen.flatMap(({ id, name, type }, at): readonly MeasureColumn[] => {
      const of = valueOf({ id, type });
      const measure = (aggregate: 'least' | 'greatest' | 'sum'): MeasureColumn => ({
        id: `${aggregate} ${at}`,
        name: `${aggregate} ${name}`,
        type: aggregate === 'sum' ? sumType(type) : type,
        aggregate,
        of,
      });
      return [measure('least'), measure('greatest'), ...(isNumber(type) ? [measure('sum')] : [])];
    });
    const relation: Relation = { node: 'group', input, keys: [], counts: [{ id: 'rows' }], measures };
    const [row = []] = yield { relation, columns: columnsOf(relation), bound: own.bound };
    let at = 1;
    const figures = told.map(({ sums }) => ({
      least: row[at++] ?? null,
      greatest: row[at++] ?? null,
      sum: sums ? (row[at++] ?? null) : null,
    }));
    lines.push({ values: given, rows: row[0] ?? '0', figures });
  }
  return { parameter, fields: told, lines };
}
