import type { BesideAsked } from './besides';
import { besideColumn } from './besides';
import type { Layout } from './layout';
import type { LineKind } from './columns';
import {
  cellRowsColumn,
  headColumn,
  keyColumn,
  LINE,
  LINE_KINDS,
  markColumn,
  restColumn,
  severalColumn,
  shownColumn,
  totalColumn,
  valuesColumn,
} from './columns';

/** A cell as it comes from the store: text, null, a cut text with its full length, or a value that fits no type. */
export type Cell = string | null | { readonly t: string; readonly n: number } | { readonly m: string };

/** What a group has of a field that stands at its head. */
export interface HeadCell {
  readonly value: Cell;
  readonly several: boolean;
}

/** A line of the proof as it is read: what it is, and its values by field. */
export interface ReadLine {
  readonly kind: LineKind;
  /** Levels its group is made by; for a row, all of them. */
  readonly level: number;
  readonly rows: string | null;
  /** Where totals stand on a line each: which of them it has. */
  readonly measure: number | undefined;
  readonly row: string | null;
  readonly keys: readonly Cell[];
  /** Of each level, what its group is shown by; undefined where that is its value. */
  readonly shown: readonly (Cell | undefined)[];
  /** What stands at the head of its group, of the fields its level has there: the value, or that there are several. */
  readonly heads: readonly HeadCell[];
  /** Of each level, whether its group is the rest together. */
  readonly rests: readonly boolean[];
  readonly value: (field: string) => Cell | undefined;
  readonly total: (index: number) => Cell;
  /** Over how many values a total is, where it is an average. */
  readonly values: (index: number) => string | null;
  /** How many of its rows are in a column per value; null where none is. */
  readonly cellRows: (place: number) => string | null;
  /** What stands beside a total. */
  readonly beside: (index: number, kind: BesideAsked) => Cell;
  readonly marked: readonly boolean[];
}

/** Reads lines as they are stored, behind their number; `columns` name their cells once for all. */
export function lineReader(
  { columns }: { readonly columns: readonly { readonly id: string }[] },
  layout: Layout,
): (cells: readonly Cell[]) => ReadLine {
  const place = new Map(columns.map((each, index) => [each.id, index + 1]));
  const placeOf = (id: string) => place.get(id) ?? -1;
  const keys = layout.levels.map((_level, index) => placeOf(keyColumn(index + 1)));
  const shown = layout.levels.map((level, index) => (level.shown === undefined ? undefined : placeOf(shownColumn(index + 1))));
  const rests = layout.levels.map((_level, index) => placeOf(restColumn(index + 1)));
  const marks = layout.marks.map((_mark, index) => placeOf(markColumn(index)));
  return (cells) => {
    const at = (id: string): Cell => cells[placeOf(id)] ?? null;
    const text = (id: string) => (typeof at(id) === 'string' ? (at(id) as string) : null);
    const kind = LINE_KINDS[Number(text(LINE.kind))] ?? 'row';
    const measure = text(LINE.measure);
    const level = kind === 'row' ? layout.levels.length : Number(text(LINE.level) ?? 0);
    const heads = (kind === 'row' ? undefined : layout.levels[level - 1]?.heads) ?? [];
    return {
      kind,
      level,
      heads: heads.map((_field, index) => ({ value: at(headColumn(level, index)), several: at(severalColumn(level, index)) === 'true' })),
      rows: text(LINE.rows),
      measure: measure === null ? undefined : Number(measure),
      row: text(LINE.row),
      keys: keys.map((index) => cells[index] ?? null),
      shown: shown.map((index) => (index === undefined ? undefined : (cells[index] ?? null))),
      rests: rests.map((index) => cells[index] === 'true'),
      value: (field) => (place.has(field) ? (cells[placeOf(field)] ?? null) : undefined),
      total: (index) => at(totalColumn(index)),
      values: (index) => text(valuesColumn(index)),
      cellRows: (place) => text(cellRowsColumn(place)),
      beside: (index, kind) => at(besideColumn(index, kind)),
      marked: marks.map((index) => cells[index] === 'true'),
    };
  };
}
