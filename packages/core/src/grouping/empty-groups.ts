import type { Expression, Window } from '../expressions';
import { all, compare, when, wholeLiteral, yes } from '../expressions';
import type { FieldType } from '../fields';
import { whole } from '../fields';
import type { SheetField } from '../sheet';
import type { CalculatedColumn, Column, MeasureColumn, Relation } from '../sql';
import { columnsOf } from '../sql';
import { valueOfWire } from '../values';
import { nothing } from './besides';
import type { Totalled } from './columns';
import {
  alike,
  apart,
  column,
  field,
  groupColumns,
  keyColumn,
  keysOf,
  LINE,
  restColumn,
  shownColumn,
  totalColumn,
  typeOf,
} from './columns';
import type { Layout, Level, There } from './layout';

/** The groups of levels there are no rows of, among those there are. */

export const hasEmptyGroups = ({ levels }: Pick<Layout, 'levels'>): boolean => levels.some(({ there }) => there !== undefined);

/**
 * Groups with those there are no rows of: in each group of a level, every value the next one has besides. They have no figures; counted, they have none of anything.
 * Where more than `most` of a level are too many anyway, no more of them are gone through.
 */
export function withEmptyGroups(groups: Relation, layout: Totalled, fields: readonly SheetField[], most?: number): Relation {
  if (!hasEmptyGroups(layout)) return groups;
  const columns = groupColumns(layout, fields);
  const empty = emptyLevels(groups, layout, fields, columns, most);
  if (empty.length === 0) return groups;
  const both: Relation = { node: 'union', inputs: [groups, ...empty], columns };
  const keys = [...layout.levels.flatMap((level, at) => apart(level, keysOf(level, at + 1, fields))), column(LINE.level, whole)];
  const told = columns.filter(({ id }) => !keys.some((key) => key.id === id));
  const together: Relation = {
    node: 'group',
    input: both,
    keys: keys.map((key) => ({ ...key, expression: field(key.id, key.type) })),
    counts: [],
    measures: told.map((each): MeasureColumn => ({ ...each, aggregate: 'greatest', of: field(each.id, each.type) })),
  };
  return { node: 'choose', input: withNames(together, layout.levels, fields), columns };
}

/** What a value is shown by where there are rows of it, where there are none as well. */
function withNames(groups: Relation, levels: readonly Level[], fields: readonly SheetField[]): Relation {
  const shown = levels.flatMap((level, index) => (level.shown === undefined ? [] : [{ level, number: index + 1, as: level.shown }]));
  if (shown.length === 0) return groups;
  const made = shown.map(({ level, number, as }): CalculatedColumn => {
    const own = field(shownColumn(number), typeOf(fields, as));
    const partition = apart(level, keysOf(level, number, fields)).map(({ id, type }) => field(id, type));
    const known: Window = { op: 'window', type: own.type, name: 'min', of: [own], partition, order: [] };
    // Groups above, and everything, are of no value at this level.
    const inside = compare('>=', field(LINE.level, whole), wholeLiteral(number));
    return { ...column(shownColumn(number), own.type), expression: when(inside, known, nothing(own.type)) };
  });
  const replaced = new Set(made.map((each) => each.id));
  const kept = columnsOf(groups).flatMap(({ id }) => (replaced.has(id) ? [] : [id]));
  return { node: 'calculate', input: groups, kept, fields: made };
}

/** So many groups without rows each group found may come to, at most: a bound, without making them. */
export const emptyPerGroup = ({ levels }: Pick<Layout, 'levels'>): number =>
  levels.reduce((most, { there }) => most * (1 + (there?.length ?? 0)), 1) - 1;

/** Of each level that has such groups, those: within the groups above, among them the ones without rows. */
function emptyLevels(
  groups: Relation,
  layout: Totalled,
  fields: readonly SheetField[],
  columns: readonly Column[],
  most: number | undefined,
): readonly Relation[] {
  const made: Relation[] = [];
  let above: Relation | undefined;
  for (const [index, level] of layout.levels.entries()) {
    const own: Relation = { node: 'filter', input: groups, condition: compare('=', field(LINE.level, whole), wholeLiteral(index)) };
    const all: Relation = above ? { node: 'union', inputs: [own, above], columns } : own;
    const parents: Relation = most === undefined ? all : { node: 'limit', input: all, count: most };
    const { there = [] } = level;
    above = there.length > 0 ? emptyLevel(parents, index + 1, there, fields, layout, columns) : undefined;
    if (above) made.push(above);
  }
  return made;
}

const NUMBER = 'number of a value';

function emptyLevel(
  parents: Relation,
  number: number,
  there: readonly There[],
  fields: readonly SheetField[],
  { levels, totals }: Totalled,
  columns: readonly Column[],
): Relation {
  const numbers: Relation = { node: 'numbers', count: there.length, column: column(NUMBER, whole) };
  const typeAt = (level: number) => typeOf(fields, levels[level - 1]?.field ?? '');
  /** What each of them says, as one value. */
  const each = (type: FieldType, text: (of: There) => string | null | undefined): Expression => {
    const branches = there.map((of, at) => ({
      when: compare('=', field(NUMBER, whole), wholeLiteral(at + 1)),
      then: { op: 'literal' as const, type, value: valueOfWire(type, text(of) ?? null) },
    }));
    return { op: 'case', type, branches, otherwise: nothing(type) };
  };
  const outer = [...new Set(there.flatMap(({ within }) => Object.keys(within ?? {}).map(Number)))];
  const shown = levels[number - 1]?.shown;
  const names = shown === undefined ? undefined : typeOf(fields, shown);
  const said: readonly CalculatedColumn[] = [
    { ...column(VALUE, typeAt(number)), expression: each(typeAt(number), ({ value }) => value) },
    ...(names ? [{ ...column(NAME, names), expression: each(names, (of) => of.shown) }] : []),
    ...outer.map((level) => ({ ...column(within(level), typeAt(level)), expression: each(typeAt(level), (of) => of.within?.[level]) })),
  ];
  const on = outer.flatMap((level) => alike(field(keyColumn(level), typeAt(level)), field(within(level), typeAt(level))));
  const told = new Map<string, Expression>([
    [keyColumn(number), field(VALUE, typeAt(number))],
    ...(names ? [[shownColumn(number), field(NAME, names)] as const] : []),
    [LINE.level, wholeLiteral(number)],
    [LINE.rows, wholeLiteral(0)],
    ...totals.flatMap(({ aggregate }, index): readonly (readonly [string, Expression])[] =>
      aggregate === 'count' || aggregate === 'distinct count' ? [[totalColumn(index), wholeLiteral(0)]] : [],
    ),
  ]);
  const above = keysAbove(number);
  const of = ({ id, type: own }: Column) => told.get(id) ?? (above.has(id) ? field(id, own) : nothing(own));
  const values: Relation = { node: 'calculate', input: numbers, fields: said };
  return {
    node: 'calculate',
    input: { node: 'join', left: parents, right: values, on: on.length > 0 ? all(...on) : yes, keeps: 'pairs' },
    kept: [],
    fields: columns.map((each): CalculatedColumn => ({ ...column(`empty ${each.id}`, each.type), expression: of(each) })),
  };
}

const VALUE = 'value of a group';
const NAME = 'what a group is shown by';
const within = (level: number) => `value of the group above at ${level}`;

const keysAbove = (number: number): ReadonlySet<string> =>
  new Set(Array.from({ length: number - 1 }, (_each, at) => [keyColumn(at + 1), restColumn(at + 1), shownColumn(at + 1)]).flat());
