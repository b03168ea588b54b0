import { checkExpression, writtenName } from '../expressions';
import type { Field, FieldId } from '../fields';
import { date, isDay } from '../fields';
import type { CalculatedColumn } from '../sql';
import type { SheetField, Writer } from '../sheet';
import { formatIn, writerOf } from '../sheet';
import type { Calendar } from '../values';
import type { Layout, Level, DayStretch, Total } from './layout';
import { allLevels, withLevels } from './layout';

/** How the first day of a stretch is read, as the stretch. */
const PATTERNS: Readonly<Record<DayStretch, string>> = {
  day: 'd MMM yyyy',
  week: "'week of' d MMM yyyy",
  month: 'MMMM yyyy',
  quarter: 'QQQ yyyy',
  year: 'yyyy',
  season: "'season of' yyyy",
};

/** Writes the first day of a stretch as the stretch: “May 2024”. */
export const stretchWriter = (stretch: DayStretch, calendar: Calendar): Writer =>
  writerOf({ type: date, role: 'date' }, formatIn(calendar, { pattern: PATTERNS[stretch] }));

type Fitting = Layout & { readonly totals: readonly Total[] };

/** A layout whose groups are all of fields there are: those by a stretch of days are of a field that begins each stretch. */
export interface ReadLayout {
  readonly layout: Fitting;
  /** The fields with those made for it. */
  readonly fields: readonly SheetField[];
  /** What was made, of which field. */
  readonly made: readonly { readonly field: SheetField; readonly of: SheetField; readonly stretch: DayStretch }[];
}

const idOf = (field: FieldId, stretch: DayStretch) => `${field} by ${stretch}`;

/** Groups by day, week, month … are groups of the first day of each; everything that reads lines needs to know of no other. */
export function readLayout(layout: Fitting, fields: readonly SheetField[], calendar: Calendar): ReadLayout {
  const made = allLevels(layout).flatMap(({ field: id, stretch }) => {
    const of = fields.find((each) => each.id === id);
    return of && stretch ? [{ field: stretchField(of, stretch, calendar), of, stretch }] : [];
  });
  if (made.length === 0) return { layout, fields, made };
  const plain = ({ listed, ...level }: Level): Level =>
    level.stretch ? { ...level, field: idOf(level.field, level.stretch) } : { ...level, ...(listed ? { listed } : {}) };
  return { layout: withLevels(layout, plain), fields: [...fields, ...made.map((each) => each.field)], made };
}

function stretchField(of: SheetField, stretch: DayStretch, calendar: Calendar): SheetField {
  const id = idOf(of.id, stretch);
  const label = `${of.label} by ${stretch}`;
  const field: Field = { ...of.field, id, name: `${stretch}_of_${of.name}`, type: date, role: 'date' };
  return {
    ...of,
    id,
    field,
    type: date,
    role: 'date',
    name: field.name,
    label,
    aggregates: [],
    format: formatIn(calendar, { pattern: PATTERNS[stretch] }),
  };
}

/** The columns such groups are made of, beside those of the rows. */
export function stretchColumns({ made }: Pick<ReadLayout, 'made'>, calendar: Calendar): readonly CalculatedColumn[] {
  return made.flatMap(({ field, of, stretch }) => {
    const day = `cast(${writtenName('field', of.field.name)} as date)`;
    const text = stretch === 'day' ? day : `start_of_${stretch}(${day})`;
    const { expression } = checkExpression(text, { schema: { fields: [of.field] }, parameters: [], calendar });
    return expression ? [{ id: field.id, name: field.id, type: expression.type, expression }] : [];
  });
}

/** Whether a field's values lie in stretches of days. */
export const hasStretches = ({ type }: Pick<SheetField, 'type'>): boolean => isDay(type);
