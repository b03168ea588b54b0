import type { Decimal, FieldType, Figure, Layout, Level, Mark, SheetField, Total, Value } from '@cendra/core';
import {
  addDecimals,
  aggregateType,
  averageType,
  compareValues,
  divideDecimals,
  evaluate,
  markCondition,
  ofWhole,
  readValue,
  rescale,
  writeValue,
} from '@cendra/core';

type Row = ReadonlyMap<string, Value>;

/** A line as it is compared: what it is, its groups' values, its totals, its marks, its row. */
export interface NaiveLine {
  readonly kind: 'header' | 'row' | 'totals';
  readonly level: number | null;
  readonly rows: number | null;
  readonly row: number | null;
  readonly keys: readonly (string | null)[];
  /** What the group of each level is shown by, where that is another field. */
  readonly shown: readonly (string | null)[];
  /** What stands at its head: the one value its rows have, or that there are several. */
  readonly heads: readonly (string | null)[];
  readonly totals: readonly (string | null)[];
  readonly marks: readonly (boolean | null)[];
}

const wire = (field: Pick<SheetField, 'type'>, value: Value) => (value === null ? null : writeValue(field.type, value));

/** The key of a group that is all others together. */
export const REST = 'the rest together';

/** At the head of a group whose rows do not have one value. */
export const SEVERAL = 'several';

/** The lines of a proof, read off its rows the slow and obvious way. Which groups are the first is told by the rows of `among`. */
export function naiveLines(
  layout: Layout & { readonly totals: readonly Total[] },
  fields: readonly SheetField[],
  rows: readonly Row[],
  among = rows,
): readonly NaiveLine[] {
  const of = (id: string) => fields.find((each) => each.id === id) as SheetField;
  const levels = layout.levels.map((level) => ({ ...level, of: of(level.field) }));
  const nothing = layout.totals.map(() => null);
  const unmarked = layout.marks.map(() => null);
  /** The least value of the field a group is shown by, in all rows of the value it is told by. */
  const nameOf = (at: number, key: string | null): Value => {
    const { shown, of: own } = levels[at] ?? {};
    if (shown === undefined || !own) return null;
    const names = among.flatMap((row) => (wire(own, row.get(own.id) ?? null) === key ? (row.get(shown) ?? []) : []));
    return names.toSorted((a, b) => compareValues(of(shown).type, a, b))[0] ?? null;
  };
  const headed = (level: number, group: readonly Row[]) =>
    (levels[level - 1]?.heads ?? []).map((id) => {
      const found = new Set(group.map((row) => wire(of(id), row.get(id) ?? null)));
      return found.size > 1 ? SEVERAL : ([...found][0] ?? null);
    });
  const named = (keys: readonly (string | null)[], depth: number) =>
    levels.map(({ shown }, at) => (shown === undefined || at >= depth ? null : wire(of(shown), nameOf(at, keys[at] ?? null))));

  const totalLines = (level: number, group: readonly Row[], keys: readonly (string | null)[]): readonly NaiveLine[] => [
    {
      kind: 'totals',
      level,
      rows: group.length,
      row: null,
      keys,
      shown: named(keys, level),
      heads: headed(level, group),
      totals: layout.totals.map((total) => naiveTotal(total, of(total.field), of, group)),
      marks: unmarked,
    },
  ];

  /** A field of a row, or the average of its group that a mark compares with. */
  const valueIn = (row: Row, id: string, mark: Mark, group: readonly Row[]): Value => {
    if (row.has(id)) return row.get(id) ?? null;
    const values = group.flatMap((each) => (each.get(mark.field) ?? []) as Decimal);
    const type = averageType(of(mark.field).type);
    if (values.length === 0 || type.kind !== 'decimal') return null;
    return divideDecimals(values.reduce(addDecimals), ofWhole(BigInt(values.length)), type.scale) ?? null;
  };

  const within = (level: number, group: readonly Row[], keys: readonly (string | null)[], known: readonly Row[]): readonly NaiveLine[] => {
    const next = levels[level];
    if (!next) {
      if (!layout.rows) return [];
      return group.map((row) => ({
        kind: 'row',
        level: null,
        rows: null,
        row: Number(writeValue({ kind: 'whole' }, row.get('n') as Decimal)),
        keys,
        shown: named(keys, levels.length),
        heads: [],
        totals: nothing,
        marks: layout.marks.map((mark) => {
          const condition = markCondition(mark, fields).expression;
          const value =
            condition &&
            evaluate(condition, {
              now: 0n,
              window: () => null,
              field: (id) => valueIn(row, id, mark, group),
              parameter: () => null,
              list: () => [],
            });
          return typeof value === 'boolean' ? value : null;
        }),
      }));
    }
    const { by, first } = next;
    const valueOf = (row: Row) => wire(next.of, row.get(next.field) ?? null);
    const inGroups = (of: readonly Row[], keyOf: (row: Row) => string | null) => {
      const groups = new Map<string | null, Row[]>();
      for (const row of of) groups.set(keyOf(row), [...(groups.get(keyOf(row)) ?? []), row]);
      return groups;
    };
    const sortedOf = (groups: ReadonlyMap<string | null, readonly Row[]>) =>
      [...groups].toSorted(([a, ofA], [b, ofB]) => {
        const [own, other] = [valueAs(next.of.type, a), valueAs(next.of.type, b)];
        const place = (value: Value) => (by ? 0 : placeIn(next.listed, next.of.type, value));
        if (place(own) !== place(other)) return place(own) - place(other);
        const called =
          next.shown === undefined ? 0 : inOrder(of(next.shown).type, nameOf(level, a), nameOf(level, b), !by && next.descending);
        if (!by) return called || inOrder(next.of.type, own, other, next.descending);
        const type = aggregateType(by.aggregate, of(by.field).type);
        const figureOf = (rows: readonly Row[]) => naiveFigure(by, of(by.field), of, rows);
        // Groups without rows have no figure, not even a count of none.
        const [figure, beside] = [ofA, ofB].map((rows) => (rows.length === 0 ? null : figureOf(rows)));
        return inOrder(type, figure ?? null, beside ?? null, next.descending) || called || inOrder(next.of.type, own, other, false);
      });
    const shown = sortedOf(inGroups(known, valueOf)).slice(0, first);
    const keyOf = (row: Row) => (shown.some(([key]) => key === valueOf(row)) ? valueOf(row) : REST);
    const groups = inGroups(group, keyOf);
    const rest = groups.get(REST);
    groups.delete(REST);
    for (const each of thereIn(next, keys)) if (!groups.has(each)) groups.set(each, []);
    const sorted = [...sortedOf(groups), ...(rest ? [[REST, rest] as const] : [])];
    const last = level === levels.length - 1;
    return sorted.flatMap(([key, inside]) => {
      const theirs = known.filter((each) => keyOf(each) === key);
      const own = keys.with(level, key);
      const header: NaiveLine = {
        kind: 'header',
        level: level + 1,
        rows: inside.length,
        row: null,
        keys: own,
        shown: named(own, level + 1),
        heads: headed(level + 1, inside),
        totals: nothing,
        marks: unmarked,
      };
      return [
        ...(layout.rows || !last ? [header] : []),
        ...around(
          layout.levels[level]?.totalsFirst,
          within(level + 1, inside, own, theirs),
          showsTotals(level, inside, own) ? totalLines(level + 1, inside, own) : [],
        ),
      ];
    });
  };
  /** More than one row, or more than one group of the next level, where only those have totals. */
  const showsTotals = (level: number, inside: readonly Row[], keys: readonly (string | null)[]): boolean => {
    const [own, next] = [levels[level], levels[level + 1]];
    if (!next && !layout.rows) return true;
    if (!own?.subtotal) return false;
    if (!own.ofSeveral) return true;
    return next
      ? new Set([...inside.map((row) => wire(next.of, row.get(next.field) ?? null)), ...thereIn(next, keys)]).size > 1
      : inside.length > 1;
  };
  const none = levels.map(() => null);
  return around(layout.grandTotalFirst, within(0, rows, none, among), layout.grandTotal ? totalLines(0, rows, none) : []);
}

/** The groups without rows a level has in a group above. */
const thereIn = ({ there = [] }: Level, keys: readonly (string | null)[]): readonly string[] =>
  there.flatMap(({ value, within = {} }) =>
    Object.entries(within).every(([above, own]) => keys[Number(above) - 1] === own) ? [value] : [],
  );

function valueAs(type: FieldType, text: string | null): Value {
  const read = text === null ? undefined : readValue(type, text);
  return read?.ok ? read.value : null;
}

/** What is in a group with its totals before or behind it. */
const around = <T>(first: true | undefined, inside: readonly T[], totals: readonly T[]): readonly T[] =>
  first ? [...totals, ...inside] : [...inside, ...totals];

/** Where a value stands in an order that is written; behind all of it where it is not listed. */
export function placeIn(listed: readonly string[] | undefined, type: FieldType, value: Value): number {
  const at = (listed ?? []).findIndex((each) => {
    const read = readValue(type, each);
    return read.ok && read.value !== null && value !== null && compareValues(type, read.value, value) === 0;
  });
  return at < 0 ? (listed ?? []).length : at;
}

/** Null comes last, whichever way. */
function inOrder(type: FieldType, a: Value, b: Value, descending: boolean): number {
  if (a === null || b === null) return a === b ? 0 : a === null ? 1 : -1;
  return compareValues(type, a, b) * (descending ? -1 : 1);
}

function naiveTotal(total: Total, field: SheetField, of: (id: string) => SheetField, group: readonly Row[]): string | null {
  const figure = naiveFigure(total, field, of, group);
  return figure === null ? null : writeValue(aggregateType(total.aggregate, field.type), figure);
}

function naiveFigure({ aggregate }: Figure, field: SheetField, of: (id: string) => SheetField, group: readonly Row[]): Value {
  const type = aggregateType(aggregate, field.type);
  const last = field.addsUp === 'over everything but dates, then last' && field.lastBy !== undefined ? of(field.lastBy) : undefined;
  const among = aggregate === 'sum' && last ? ofLast(group, last) : group;
  const values = among.flatMap((row) => row.get(field.id) ?? []);
  const counted = (count: number) => ofWhole(BigInt(count));
  if (aggregate === 'count') return counted(values.length);
  if (aggregate === 'distinct count') return counted(new Set(values.map((each) => writeValue(field.type, each))).size);
  if (values.length === 0) return null;
  const sorted = values.toSorted((a, b) => compareValues(field.type, a, b));
  if (aggregate === 'least' || aggregate === 'greatest') return sorted.at(aggregate === 'least' ? 0 : -1) ?? null;
  const sum = (values as Decimal[]).reduce(addDecimals);
  const scale = type.kind === 'decimal' ? type.scale : 0;
  return aggregate === 'sum' ? rescale(sum, scale) : (divideDecimals(sum, counted(values.length), scale) ?? null);
}

/** The rows of the last date there is in the group. */
function ofLast(group: readonly Row[], date: SheetField): readonly Row[] {
  const dates = group.flatMap((row) => row.get(date.id) ?? []);
  const last = dates.toSorted((a, b) => compareValues(date.type, a, b)).at(-1);
  return last === undefined
    ? []
    : group.filter(
        (row) =>
          row.get(date.id) !== null && row.get(date.id) !== undefined && compareValues(date.type, row.get(date.id) as never, last) === 0,
      );
}
