import type { Expression } from '../expressions';
import { compare, wholeLiteral, yes } from '../expressions';
import type { FieldId, FieldType } from '../fields';
import { date, whole } from '../fields';
import type { GivenValues, Parameter } from '../parameters';
import { parameterType, stretchStart } from '../parameters';
import { refuse } from '../problem';
import type { SheetField } from '../sheet';
import type { CalculatedColumn, Column, MeasureColumn, Relation } from '../sql';
import type { Calendar, Value } from '../values';
import { DAY_MICROS, floorDivide, readValue, writeValue } from '../values';
import { nothing } from './besides';
import type { Totalled } from './columns';
import { column, field, groupColumns, keyColumn, keysOfLevels, LINE, restColumn, totalColumn, typeOf } from './columns';
import type { StoredOrMade } from './groups';
import { landedRows } from './groups';
import type { DayStretch, Layout, Level } from './layout';
import { allLevels, withLevels } from './layout';
import type { ReadLayout } from './stretches';

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
  /** The values a field has at a step. */
  readonly valuesAt: (step: string, field: FieldId) => readonly string[];
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
  const layout = withLevels(read.layout, (level) => {
    if (!level.also) return level;
    const of = read.fields.find((each) => each.id === level.field);
    const there = of ? [...new Set(alsoThere(level, of, known))] : [];
    if (there.length > MOST_ALSO)
      return refuse(
        'groups-many',
        `${of?.label ?? 'A level'} would have more than ${MOST_ALSO} groups without rows.`,
        { field: level.field },
        'longer stretches, or only groups with rows',
      );
    return { ...level, there };
  });
  return { ...read, layout };
}

function alsoThere(level: Level, { type }: SheetField, known: AlsoKnown): readonly string[] {
  const { also, stretch } = level;
  if (!also) return [];
  if (also.of === 'field') return wire(type, known.valuesAt(also.step, also.field));
  if (stretch && also.of === 'span') return between(known.spans.get(level.field) ?? [null, null], stretch, known);
  const parameter = also.of === 'span' ? undefined : known.parameters.find((each) => each.id === also.parameter);
  if (!parameter) return [];
  if (also.of === 'choices') {
    const { choices } = parameter;
    return choices?.from === 'typed'
      ? wire(
          type,
          choices.items.map(({ value }) => value),
        )
      : [];
  }
  const own = parameterType(parameter);
  const given = known.values[parameter.id] ?? parameter.startsAs;
  if (!stretch) return wire(type, given);
  const days = given.map((each) => dayOf(own, each));
  if (parameter.takes !== 'range') return days.flatMap((each) => (each === undefined ? [] : startsIn(each, each, stretch, known.calendar)));
  // A range that is open at an end reaches as far as there are rows.
  const [least, greatest] = known.spans.get(level.field) ?? [null, null];
  const [from, until] = [days[0] ?? dayOf(date, least ?? ''), days[1] ?? dayOf(date, greatest ?? '')];
  return from === undefined || until === undefined ? [] : startsIn(from, until, stretch, known.calendar);
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

function between(
  [least, greatest]: readonly [string | null, string | null],
  stretch: DayStretch,
  { calendar }: AlsoKnown,
): readonly string[] {
  const [from, until] = [dayOf(date, least ?? ''), dayOf(date, greatest ?? '')];
  return from === undefined || until === undefined ? [] : startsIn(from, until, stretch, calendar);
}

/** The first days of all stretches that begin no later than a day, from the one another day lies in. One more than may be. */
function startsIn(from: number, until: number, stretch: DayStretch, calendar: Calendar): readonly string[] {
  const starts: string[] = [];
  for (let moved = 0; moved <= MOST_ALSO; moved++) {
    const start = stretchStart(from, stretch, moved, calendar);
    if (start === undefined || start > until) break;
    starts.push(writeValue(date, start));
  }
  return starts;
}

export const hasEmptyGroups = ({ levels }: Pick<Layout, 'levels'>): boolean => levels.some(({ there }) => there !== undefined);

/** Groups with those there are no rows of: in each group of a level, every value the next one has besides. They have no figures; counted, they have none of anything. */
export function withEmptyGroups(groups: Relation, layout: Totalled, fields: readonly SheetField[]): Relation {
  if (!hasEmptyGroups(layout)) return groups;
  const columns = groupColumns(layout, fields);
  const empty = emptyLevels(groups, layout, fields, columns);
  if (empty.length === 0) return groups;
  const both: Relation = { node: 'union', inputs: [groups, ...empty], columns };
  const keys = [...keysOfLevels(layout.levels, fields), column(LINE.level, whole)];
  const told = columns.filter(({ id }) => !keys.some((key) => key.id === id));
  const together: Relation = {
    node: 'group',
    input: both,
    keys: keys.map((key) => ({ ...key, expression: field(key.id, key.type) })),
    counts: [],
    measures: told.map((each): MeasureColumn => ({ ...each, aggregate: 'greatest', of: field(each.id, each.type) })),
  };
  return { node: 'choose', input: together, columns };
}

/** Of each level that has such groups, those: within the groups above, among them the ones without rows. */
function emptyLevels(groups: Relation, layout: Totalled, fields: readonly SheetField[], columns: readonly Column[]): readonly Relation[] {
  const made: Relation[] = [];
  let above: Relation | undefined;
  for (const [index, level] of layout.levels.entries()) {
    const own: Relation = { node: 'filter', input: groups, condition: compare('=', field(LINE.level, whole), wholeLiteral(index)) };
    const parents: Relation = above ? { node: 'union', inputs: [own, above], columns } : own;
    const { there = [] } = level;
    above = there.length > 0 ? emptyLevel(parents, index + 1, there, typeOf(fields, level.field), layout, columns) : undefined;
    if (above) made.push(above);
  }
  return made;
}

const NUMBER = 'number of a value';

function emptyLevel(
  parents: Relation,
  number: number,
  there: readonly string[],
  type: FieldType,
  { totals }: Totalled,
  columns: readonly Column[],
): Relation {
  const numbers: Relation = { node: 'numbers', count: there.length, column: column(NUMBER, whole) };
  const branches = there.map((text, at) => ({
    when: compare('=', field(NUMBER, whole), wholeLiteral(at + 1)),
    then: literal(type, text),
  }));
  const told = new Map<string, Expression>([
    [keyColumn(number), { op: 'case', type, branches, otherwise: nothing(type) }],
    [LINE.level, wholeLiteral(number)],
    [LINE.rows, wholeLiteral(0)],
    ...totals.flatMap(({ aggregate }, index): readonly (readonly [string, Expression])[] =>
      aggregate === 'count' || aggregate === 'distinct count' ? [[totalColumn(index), wholeLiteral(0)]] : [],
    ),
  ]);
  const above = keysAbove(number);
  const of = ({ id, type: own }: Column) => told.get(id) ?? (above.has(id) ? field(id, own) : nothing(own));
  return {
    node: 'calculate',
    input: { node: 'join', left: parents, right: numbers, on: yes, keeps: 'pairs' },
    kept: [],
    fields: columns.map((each): CalculatedColumn => ({ ...column(`empty ${each.id}`, each.type), expression: of(each) })),
  };
}

const keysAbove = (number: number): ReadonlySet<string> =>
  new Set(Array.from({ length: number - 1 }, (_each, at) => [keyColumn(at + 1), restColumn(at + 1)]).flat());

function literal(type: FieldType, text: string): Expression {
  const read = readValue(type, text);
  const value: Value = read.ok ? read.value : null;
  return { op: 'literal', type, value };
}
