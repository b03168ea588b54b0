import type { Expression } from '../expressions';
import { closed, compare, not } from '../expressions';
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
  /** Which aggregate the totals of the line are: its index in `AGGREGATES`. */
  aggregate: 'line_aggregate',
  /** The row's number in the result. */
  row: 'line_row',
} as const;

export const keyColumn = (level: number): string => `key_${level}`;
export const totalColumn = (index: number): string => `total_${index}`;
/** Of a level that shows its first groups only: whether a group is all the others together. */
export const restColumn = (level: number): string => `rest_${level}`;
/** Of rows: whether their group of a field is none of the first. */
export const restOf = (field: FieldId): string => `rest of ${field}`;
/** Over how many values an average is. */
export const valuesColumn = (index: number): string => `values_${index}`;
/** How many rows of a line are in a column per value; null where none is. */
export const cellRowsColumn = (place: number): string => `cell_rows_${place}`;
export const markColumn = (index: number): string => `mark_${index}`;

/** A layout whose totals are known; `together` says that a line has all of them, whatever their aggregates. */
export type Totalled = Layout & {
  readonly totals: readonly Total[];
  readonly together?: true;
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

/** What the groups of a level are told by within those above: their value, and where it shows its first ones only, whether they are the rest. */
export const keysOf = ({ field: id, first }: Level, number: number, fields: readonly SheetField[]): readonly Column[] => [
  column(keyColumn(number), typeOf(fields, id)),
  ...(first === undefined ? [] : [column(restColumn(number), yesno)]),
];

export const keysOfLevels = (levels: readonly Level[], fields: readonly SheetField[]): readonly Column[] =>
  levels.flatMap((level, index) => keysOf(level, index + 1, fields));

/** The same of a row. The rest has no value. */
export function keysOfRow({ field: id, first }: Level, number: number, fields: readonly SheetField[]): readonly CalculatedColumn[] {
  const type = typeOf(fields, id);
  const own = field(id, type);
  const key = column(keyColumn(number), type);
  if (first === undefined) return [{ ...key, expression: own }];
  const rest = field(restOf(id), yesno);
  const shown: Expression = {
    op: 'case',
    type,
    branches: [{ when: not(rest), then: own }],
    otherwise: { op: 'literal', type, value: null },
  };
  return [
    { ...key, expression: shown },
    { ...column(restColumn(number), yesno), expression: rest },
  ];
}

/** Whether two values are the same; null is a value like others. */
export function alike(a: Expression, b: Expression): readonly Expression[] {
  const theirs = withNulls(b);
  return withNulls(a).flatMap((each, at) => (theirs[at] ? [compare('=', each, theirs[at])] : []));
}

/** Columns of the groups: their keys, level, rows, and each total. */
export function groupColumns(layout: Totalled, fields: readonly SheetField[]): readonly Column[] {
  return [
    ...keysOfLevels(layout.levels, fields),
    column(LINE.level, whole),
    column(LINE.rows, whole),
    ...layout.totals.map((total, index) => column(totalColumn(index), totalType(fields, total))),
    ...averages(layout).map((index) => column(valuesColumn(index), whole)),
    ...Array.from({ length: layout.places ?? 0 }, (_each, place) => column(cellRowsColumn(place), whole)),
  ];
}

export const averages = ({ totals }: { readonly totals: readonly Total[] }) =>
  totals.flatMap(({ aggregate }, index) => (aggregate === 'average' ? [index] : []));

/** The figure the groups of a level stand in the order of. */
export const figureColumn = (level: number): string => `figure_${level}`;
