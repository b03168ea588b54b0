import type { Expression } from '../expressions';
import { closed, compare, not, when } from '../expressions';
import type { FieldId, FieldType } from '../fields';
import { whole, yesno } from '../fields';
import { withNulls } from '../joins';
import type { CalculatedColumn, Column } from '../sql';
import type { SheetField } from '../sheet';
import { aggregateType } from '../sheet';
import type { Figure, Layout, Level, Total } from './layout';

/** What a line of the proof is: it opens a group, is a row, or closes a group (or everything) with totals. */
export const LINE_KINDS = ['header', 'row', 'totals'] as const;
export type LineKind = (typeof LINE_KINDS)[number];

/** Columns of a line besides the fields' own. */
export const LINE = {
  /** Index into `LINE_KINDS`. */
  kind: 'line_kind',
  /** Of a header or totals: how many levels its group is made by; 0 for everything. */
  level: 'line_level',
  /** Rows of the group. */
  rows: 'line_rows',
  /** Where totals stand on a line each: which of them the line has, counted from 0. */
  measure: 'line_measure',
  /** The row's number in the result. */
  row: 'line_row',
} as const;

export const keyColumn = (level: number): string => `key_${level}`;
export const totalColumn = (index: number): string => `total_${index}`;
/** Of a level that shows its first groups only: whether a group is all the others together. */
export const restColumn = (level: number): string => `rest_${level}`;
/** Of rows: whether their group of a field is none of the first. */
export const restOf = (field: FieldId): string => `rest of ${field}`;
/** What the groups of a level are shown by, where that is no value they are told apart by. */
export const shownColumn = (level: number): string => `shown_${level}`;
/** Of rows: what the group of a field's value is shown by. */
export const shownOf = ({ field, shown = '' }: Pick<Level, 'field' | 'shown'>): string => `${shown} shows ${field}`;
/** Over how many values an average is. */
export const valuesColumn = (index: number): string => `values_${index}`;
/** How many rows of a line are in a column per value; null where none is. */
export const cellRowsColumn = (place: number): string => `cell_rows_${place}`;
export const markColumn = (index: number): string => `mark_${index}`;

/** A layout whose totals are known. */
export type Totalled = Layout & {
  readonly totals: readonly Total[];
  /** So many totals stand on a line each, of every column; left out where a line has all of them. */
  readonly below?: number;
  /** So many columns per value, of each of which a line says how many rows are in it. */
  readonly places?: number;
  /** Of each of them the column before, by its number, where there is one. */
  readonly before?: readonly (number | undefined)[];
};

export const field = (id: FieldId, type: FieldType): Expression => ({ op: 'field', id, type });
export const column = (id: string, type: FieldType): Column => ({ id, name: id, type });
export const typeOf = (fields: readonly SheetField[], id: FieldId): FieldType => fields.find((each) => each.id === id)?.type ?? whole;

/** Numbers without a fixed scale are added at the scale arithmetic uses; compared, they keep their digits. */
export const totalled = (fields: readonly SheetField[], { field: id, aggregate }: Figure): Expression => {
  const of = field(id, typeOf(fields, id));
  return aggregate === 'sum' || aggregate === 'average' ? closed(of) : of;
};
export const totalType = (fields: readonly SheetField[], total: Figure): FieldType =>
  aggregateType(total.aggregate, totalled(fields, total).type);

/**
 * What the groups of a level are told by within those above: their value, and where it shows its first ones only, whether they
 * are the rest. Behind that, what they are shown by, which goes with the value.
 */
export const keysOf = ({ field: id, first, shown }: Level, number: number, fields: readonly SheetField[]): readonly Column[] => [
  column(keyColumn(number), typeOf(fields, id)),
  ...(first === undefined ? [] : [column(restColumn(number), yesno)]),
  ...(shown === undefined ? [] : [column(shownColumn(number), typeOf(fields, shown))]),
];

/** Of what `keysOf` gives, what tells groups apart. */
export const apart = <K>({ first }: Pick<Level, 'first'>, keys: readonly K[]): readonly K[] => keys.slice(0, first === undefined ? 1 : 2);

export const keysOfLevels = (levels: readonly Level[], fields: readonly SheetField[]): readonly Column[] =>
  levels.flatMap((level, index) => keysOf(level, index + 1, fields));

/** The same of a row. The rest has no value. */
export function keysOfRow(level: Level, number: number, fields: readonly SheetField[]): readonly CalculatedColumn[] {
  const { field: id, first, shown } = level;
  const rest = first === undefined ? undefined : field(restOf(id), yesno);
  const own = (column: Column, of: Expression): CalculatedColumn => ({
    ...column,
    expression: rest ? when(not(rest), of, { op: 'literal', type: of.type, value: null }) : of,
  });
  const type = typeOf(fields, id);
  const names = shown === undefined ? undefined : typeOf(fields, shown);
  return [
    own(column(keyColumn(number), type), field(id, type)),
    ...(rest ? [{ ...column(restColumn(number), yesno), expression: rest }] : []),
    ...(names ? [own(column(shownColumn(number), names), field(shownOf(level), names))] : []),
  ];
}

/** Whether two values are the same; null is a value like others. */
export function alike(a: Expression, b: Expression): readonly Expression[] {
  const theirs = withNulls(b);
  return withNulls(a).flatMap((each, at) => (theirs[at] ? [compare('=', each, theirs[at])] : []));
}

/** What a group has of a field at its head. */
export const headColumn = (level: number, index: number): string => `head_${level}_${index}`;
/** Whether its rows have several values of it. */
export const severalColumn = (level: number, index: number): string => `several_${level}_${index}`;

/** A field at the head of a level's groups, by its number among those. */
export interface Head {
  readonly level: number;
  readonly index: number;
  readonly field: FieldId;
}

export const headsOf = (levels: readonly Level[]): readonly Head[] =>
  levels.flatMap(({ heads = [] }, at) => heads.map((each, index) => ({ level: at + 1, index, field: each })));

/** The columns groups have of them. */
export const headColumns = (levels: readonly Level[], fields: readonly SheetField[]): readonly Column[] =>
  headsOf(levels).flatMap(({ level, index, field: id }) => [
    column(headColumn(level, index), typeOf(fields, id)),
    column(severalColumn(level, index), yesno),
  ]);

/** Columns of the groups: their keys, level, rows, and each total. */
export function groupColumns(layout: Totalled, fields: readonly SheetField[]): readonly Column[] {
  return [
    ...keysOfLevels(layout.levels, fields),
    column(LINE.level, whole),
    column(LINE.rows, whole),
    ...layout.totals.map((total, index) => column(totalColumn(index), totalType(fields, total))),
    ...averages(layout).map((index) => column(valuesColumn(index), whole)),
    ...headColumns(layout.levels, fields),
    ...Array.from({ length: layout.places ?? 0 }, (_each, place) => column(cellRowsColumn(place), whole)),
  ];
}

export const averages = ({ totals }: { readonly totals: readonly Total[] }) =>
  totals.flatMap(({ aggregate }, index) => (aggregate === 'average' ? [index] : []));

/** The figure the groups of a level stand in the order of. */
export const figureColumn = (level: number): string => `figure_${level}`;
