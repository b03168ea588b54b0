import type { FieldId, FieldType } from '../fields';
import { date } from '../fields';
import type { GivenValues, Parameter } from '../parameters';
import { parameterType, stretchStart } from '../parameters';
import { refuse } from '../problem';
import type { SheetField } from '../sheet';
import type { MeasureColumn, Relation } from '../sql';
import type { Calendar } from '../values';
import { DAY_MICROS, floorDivide, readValue, writeValue } from '../values';
import { column, field, typeOf } from './columns';
import type { StoredOrMade } from './groups';
import { landedRows } from './groups';
import type { Also, DayStretch, Layout, Level, There } from './layout';
import { allLevels, withLevels } from './layout';
import type { ReadLayout } from './stretches';

/** Which groups there are besides those of rows: what has to be asked for them, and what the answers come to. */

/** So many groups besides those of rows a level may have: a reader goes through all of them. */
export const MOST_ALSO = 1_000;

/** What groups without rows are told by. */
export interface AlsoKnown {
  readonly parameters: readonly Parameter[];
  /** Those the rows were got with. */
  readonly values: GivenValues;
  readonly calendar: Calendar;
  /** Of each field that is spanned its least and greatest value, in wire form. */
  readonly spans: ReadonlyMap<FieldId, readonly [string | null, string | null]>;
  /** What was found for each of `alsoAsked`: the value, and those of the fields it is asked within, in wire form. */
  readonly found: (asked: AlsoAsked) => readonly (readonly (string | null)[])[];
  readonly columnAt: ColumnAtStep;
}

/** A field at a step whose values are groups, with the fields there that tell in which groups above, and behind them the one they are shown by. */
export interface AlsoAsked {
  readonly step: string;
  readonly field: FieldId;
  readonly within: readonly FieldId[];
}

/** The field at a step a level's values are read from; undefined where they are not. */
export type ColumnAtStep = (step: string, level: FieldId) => FieldId | undefined;

/** What has to be asked of steps for the groups of a layout. */
export const alsoAsked = ({ layout }: ReadLayout, columnAt: ColumnAtStep): readonly AlsoAsked[] =>
  sidesOf(layout).flatMap((side) =>
    side.flatMap((level, index) => (level.also?.of === 'field' ? [askedOf(level, level.also, side.slice(0, index), columnAt).asked] : [])),
  );

const sidesOf = ({ levels, across }: Layout) => [levels, across?.levels ?? []];

/** With the numbers of the levels above it is asked within. */
function askedOf({ shown }: Level, { step, field: id }: Also & { of: 'field' }, above: readonly Level[], columnAt: ColumnAtStep) {
  const within = above.flatMap((level, index) => {
    const column = level.first === undefined && !level.stretch ? columnAt(step, level.field) : undefined;
    return column === undefined ? [] : [{ number: index + 1, field: column }];
  });
  const name = shown === undefined ? undefined : columnAt(step, shown);
  const fields = [...within.map((each) => each.field), ...(name === undefined ? [] : [name])];
  return { asked: { step, field: id, within: fields }, numbers: within.map((each) => each.number), named: name !== undefined };
}

/** The levels of a layout, as it is read, that have groups between others. */
const spanned = (layout: Layout): readonly Level[] =>
  allLevels(layout).filter(({ also, stretch }) => stretch !== undefined && also !== undefined && also.of !== 'field');

/** One row: the least and the greatest value of each field that is spanned; undefined where none is. */
export function spansAsked({ layout, fields }: ReadLayout, stored: readonly StoredOrMade[]): Relation | undefined {
  const levels = spanned(layout);
  if (levels.length === 0) return undefined;
  const measures = levels.flatMap((level, index): readonly MeasureColumn[] => {
    const of = field(level.field, typeOf(fields, level.field));
    return (['least', 'greatest'] as const).map((aggregate) => ({ ...column(`${aggregate}_${index}`, of.type), aggregate, of }));
  });
  const all: Relation = { node: 'group', input: landedRows(stored), keys: [], counts: [], measures };
  return { node: 'choose', input: all, columns: measures.map(({ id, name, type }) => ({ id, name, type })) };
}

/** What that row says, by field. */
export const spansOf = ({ layout }: ReadLayout, row: readonly (string | null)[]): AlsoKnown['spans'] =>
  new Map(spanned(layout).map((level, index) => [level.field, [row[index * 2] ?? null, row[index * 2 + 1] ?? null]]));

/** The layout with the groups its levels have besides those of rows. Throws a ProblemError where they are too many. */
export function withAlso(read: ReadLayout, known: AlsoKnown): ReadLayout {
  const there = new Map(
    sidesOf(read.layout).flatMap((side) => side.map((level, index) => [level, thereOf(level, side.slice(0, index), read, known)] as const)),
  );
  return {
    ...read,
    layout: withLevels(read.layout, (level) => {
      const own = there.get(level);
      return own ? { ...level, there: own } : level;
    }),
  };
}

function thereOf(level: Level, above: readonly Level[], read: ReadLayout, known: AlsoKnown): readonly There[] | undefined {
  const { also, stretch } = level;
  const of = read.fields.find((each) => each.id === level.field);
  if (!also || !of) return undefined;
  const there =
    also.of === 'field'
      ? foundAt(level, also, read.fields, above, known)
      : stretch
        ? inStretches(stretchesOf(level, stretch, known), level, above, read, known)
        : [...new Set(valuesOf(also, of, known))].map((value) => ({ value }));
  if (there.length > MOST_ALSO)
    return refuse(
      'groups-many',
      `${of.label} would have more than ${MOST_ALSO} groups without rows.`,
      { field: level.field },
      'longer stretches, or only groups with rows',
    );
  return there;
}

function foundAt(
  level: Level,
  also: Also & { of: 'field' },
  fields: readonly SheetField[],
  above: readonly Level[],
  known: AlsoKnown,
): readonly There[] {
  const { asked, numbers, named } = askedOf(level, also, above, known.columnAt);
  const there = known.found(asked).flatMap(([value, ...others]) => {
    const within = Object.fromEntries(numbers.map((number, at) => [number, others[at] ?? null]));
    const [shown] = named ? wire(typeOf(fields, level.shown ?? ''), [others[numbers.length] ?? '']) : [];
    return wire(typeOf(fields, level.field), [value ?? '']).map((own): There => ({
      value: own,
      ...(shown === undefined ? {} : { shown }),
      ...(numbers.length > 0 ? { within } : {}),
    }));
  });
  // A value of several names is one group.
  const once = new Map(there.map((each) => [JSON.stringify([each.value, each.within]), each]));
  return [...once.values()];
}

function valuesOf(also: Also, { type }: SheetField, { parameters, values }: AlsoKnown): readonly string[] {
  const parameter = 'parameter' in also ? parameters.find((each) => each.id === also.parameter) : undefined;
  if (!parameter) return [];
  if (also.of === 'parameter') return wire(type, values[parameter.id] ?? parameter.startsAs);
  const { choices } = parameter;
  return choices?.from === 'typed'
    ? wire(
        type,
        choices.items.map(({ value }) => value),
      )
    : [];
}

/** The first days of the stretches a level has. A range that is open at an end reaches as far as there are rows. */
function stretchesOf(
  { also, field: id }: Level,
  stretch: DayStretch,
  { parameters, values, calendar, spans }: AlsoKnown,
): readonly number[] {
  const [least, greatest] = (spans.get(id) ?? []).map((each) => dayOf(date, each ?? ''));
  const parameter = also && 'parameter' in also ? parameters.find((each) => each.id === also.parameter) : undefined;
  const given = parameter ? (values[parameter.id] ?? parameter.startsAs).map((each) => dayOf(parameterType(parameter), each)) : [];
  if (parameter && parameter.takes !== 'range')
    return [...new Set(given.flatMap((day) => (day === undefined ? [] : startsIn(day, day, stretch, calendar))))];
  const [from, until] = [given[0] ?? least, given[1] ?? greatest];
  return from === undefined || until === undefined ? [] : startsIn(from, until, stretch, calendar);
}

/** Within longer stretches of the same days each is one of the group it lies in alone. */
function inStretches(
  days: readonly number[],
  { field: own }: Level,
  above: readonly Level[],
  { made }: ReadLayout,
  { calendar }: AlsoKnown,
): readonly There[] {
  const daysOf = (id: FieldId) => made.find((each) => each.field.id === id)?.of.id;
  const outer = above.flatMap((level, index) =>
    level.stretch && level.first === undefined && daysOf(level.field) === daysOf(own)
      ? [{ number: index + 1, stretch: level.stretch }]
      : [],
  );
  return days.map((day): There => {
    const value = writeValue(date, day);
    if (outer.length === 0) return { value };
    const startOf = (stretch: DayStretch) => stretchStart(day, stretch, 0, calendar);
    return {
      value,
      within: Object.fromEntries(outer.map(({ number, stretch }) => [number, writeValue(date, startOf(stretch) ?? day)])),
    };
  });
}

/** Texts as values of a type; what can be none is no group. */
const wire = (type: FieldType, texts: readonly string[]): readonly string[] =>
  texts.flatMap((each) => {
    const read = readValue(type, each);
    return each !== '' && read.ok && read.value !== null ? [writeValue(type, read.value)] : [];
  });

function dayOf(type: FieldType, text: string): number | undefined {
  const read = readValue(type, text);
  if (text === '' || !read.ok) return undefined;
  if (typeof read.value === 'number') return read.value;
  return typeof read.value === 'bigint' ? Number(floorDivide(read.value, DAY_MICROS)) : undefined;
}

/** The first days of all stretches that begin no later than a day, from the one another day lies in. One more than may be. */
function startsIn(from: number, until: number, stretch: DayStretch, calendar: Calendar): readonly number[] {
  const starts: number[] = [];
  for (let moved = 0; moved <= MOST_ALSO; moved++) {
    const start = stretchStart(from, stretch, moved, calendar);
    if (start === undefined || start > until) break;
    starts.push(start);
  }
  return starts;
}
