import type { Expression } from '../expressions';
import { isNull, sumType, when, wholeLiteral } from '../expressions';
import type { Field } from '../fields';
import { fieldById, isNumber, whole } from '../fields';
import { relationAfter } from '../planning';
import { refuse } from '../problem';
import type { MeasureColumn, Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';
import type { Binding } from '../parameters';
import type { DescribedPart, Questioning } from '../steps';
import { checkedOf } from '../steps';
import { bindDefinition, checkedStep } from '../trail';
import { partRelation } from './parts';
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
  /** Whether it is a number, which has a sum, or a yes/no, of which is told how many are yes. */
  readonly adds?: 'sum' | 'yes';
}

export interface SweptLine {
  /** As it was given: one value, or the ends of a range. */
  readonly values: readonly string[];
  /** Why there are no figures for it. */
  readonly problem?: string;
  readonly rows: string;
  /** By field, in their order: texts in wire form, null where there is no value. */
  readonly figures: readonly SweptFigures[];
}

export interface SweptFigures {
  readonly least: string | null;
  readonly greatest: string | null;
  /** The sum, or how many are yes. */
  readonly sum: string | null;
}

/** So many values at once, and fields. */
export const SWEPT_MOST = 100;
export const SWEPT_FIELDS = 6;

/**
 * Runs a step once for each value, or a part of its text, the other parameters as they are, all in one moment. Of a part all
 * columns are looked at, as far as they may be. Throws a ProblemError for what does not fit.
 */
export function* sweep(
  { trail, binding }: QuestionContext,
  step: string,
  parameter: string,
  values: readonly (readonly string[])[],
  fields: readonly string[],
  part?: DescribedPart,
): Questioning<Swept> {
  const checked = checkedStep(trail, step);
  const asked = trail.definition.parameters.find((each) => each.id === parameter);
  if (!checked) return refuse('step-gone', 'This step is not in the dataset any more.', { step });
  if (!asked) return refuse('parameter-gone', 'The parameter is not in the dataset any more.', { parameter });
  const sql = part && checkedOf('sql', checked);
  if (part && !sql) return refuse('step-gone', 'This text is not in the dataset any more.', { step });
  const rowsWith = (own: Binding) => (part && sql ? partRelation({ trail, binding: own }, sql, part) : undefined);
  const given: readonly Pick<Field, 'id' | 'name' | 'type'>[] =
    rowsWith(binding)?.columns.slice(0, SWEPT_FIELDS) ?? fields.flatMap((id) => fieldById(checked.schema, id) ?? []);
  const chosen = given.filter((each) => each.type.kind !== 'json');
  const told = chosen.map(({ id, name, type }): SweptField => {
    const adds = isNumber(type) ? 'sum' : type.kind === 'yesno' ? 'yes' : undefined;
    return { field: id, name, ...(adds === undefined ? {} : { adds }) };
  });
  const lines: SweptLine[] = [];
  for (const value of values) {
    const own = bindDefinition(trail.definition, { ...binding.used, [parameter]: value }, binding.now);
    const [wrong] = own.problems.filter((each) => each.place.parameter === parameter);
    if (wrong) {
      lines.push({ values: value, problem: wrong.message, rows: '', figures: [] });
      continue;
    }
    const input = rowsWith(own)?.relation ?? relationAfter(trail, step, own);
    const measures = chosen.flatMap((field, at): readonly MeasureColumn[] => {
      const of = measured(field);
      const measure = (aggregate: 'least' | 'greatest' | 'sum'): MeasureColumn => ({
        id: `${aggregate} ${at}`,
        name: `${aggregate} ${field.name}`,
        type: aggregate === 'sum' ? sumType(of.type) : of.type,
        aggregate,
        of,
      });
      return [measure('least'), measure('greatest'), ...(told[at]?.adds ? [measure('sum')] : [])];
    });
    const relation: Relation = { node: 'group', input, keys: [], counts: [{ id: 'rows' }], measures };
    const [row = []] = yield { relation, columns: columnsOf(relation), bound: own.bound };
    let at = 1;
    const figures = told.map(({ adds }): SweptFigures => {
      const [least = null, greatest = null, sum = null] = row.slice(at, (at += adds ? 3 : 2));
      return adds === 'yes' ? { least: asYes(least), greatest: asYes(greatest), sum } : { least, greatest, sum };
    });
    lines.push({ values: value, rows: row[0] ?? '0', figures });
  }
  return { parameter, fields: told, lines };
}

/** Not every source has a least yes/no: as a number each has. */
function measured({ id, type }: Pick<Field, 'id' | 'type'>): Expression {
  const of = valueOf({ id, type });
  if (type.kind !== 'yesno') return of;
  return when(of, wholeLiteral(1), when(isNull(of), { op: 'literal', type: whole, value: null }, wholeLiteral(0)));
}

const asYes = (figure: string | null) => (figure === null ? null : figure === '1' ? 'true' : 'false');
