import type { Expression, OrderBy, Window } from '../expressions';
import { closed, compare, sumType, when, wholeLiteral } from '../expressions';
import type { FieldType } from '../fields';
import { whole, yesno } from '../fields';
import type { CalculatedColumn, Column, Relation } from '../sql';
import { columnsOf } from '../sql';
import type { SheetField } from '../sheet';
import { againstOf, averageOf, averageType, markCondition } from './marks';
import { besideColumns, nothing } from './besides';
import type { LineKind, Totalled } from './columns';
import {
  column,
  field,
  groupColumns,
  keyColumn,
  keysOfLevels,
  keysOfRow,
  LINE,
  LINE_KINDS,
  markColumn,
  restColumn,
  totalColumn,
  typeOf,
  valuesColumn,
} from './columns';
import { readRows } from './first-groups';
import type { StoredOrMade } from './groups';
import { groupOrder, inOrder, isMade, withFigures } from './groups';
import type { Layout } from './layout';

/** What the lines of a proof are made of: the groups first, then the lines from the rows and the groups. */
export interface ProofRelations {
  /**
   * Groups that are made and landed before, under their handles, in this order; and to how many groups without rows each of
   * them may come, where such are made of them.
   */
  readonly landed: readonly { readonly handle: string; readonly groups: Relation; readonly emptyPerGroup?: number }[];
  readonly groups: Relation;
  readonly lines: Relation;
  readonly columns: readonly Column[];
}

const GROUPS = 'groups';

/** The lines of groups that are landed as `groups`, with the result's rows between them where the layout shows them. */
export function linesOf(
  layout: Totalled,
  fields: readonly SheetField[],
  stored: readonly StoredOrMade[],
  groups: Relation,
): Omit<ProofRelations, 'landed'> {
  const rows = readRows(layout, fields, stored);
  const landed: Relation = { node: 'landed', handle: GROUPS, columns: [...groupColumns(layout, fields), ...besideColumns(layout, fields)] };
  const columns = lineColumns(layout, fields, stored);
  const parts = [
    ...(layout.rows ? [rowLines(layout, fields, rows, columns)] : []),
    ...headerLines(layout, landed, columns),
    ...totalLines(layout, landed, columns),
  ];
  // A layout that shows nothing has no lines: no group is of this level.
  const inputs = parts.length > 0 ? parts : [groupLine('totals', -1, [BEHIND], layout, landed, columns)];
  const union: Relation = { node: 'union', inputs, columns: [...columns, ...orderColumns(layout)] };
  const sorted: Relation = { node: 'sort', input: withFigures(union, layout, fields, rows), order: orderOf(layout, fields) };
  return { groups, lines: { node: 'choose', input: sorted, columns }, columns };
}

const number = wholeLiteral;
/** Columns of a line: what it is, its keys, the row's own values, its totals, and which marks show. */
function lineColumns(layout: Totalled, fields: readonly SheetField[], stored: readonly StoredOrMade[]): readonly Column[] {
  return [
    column(LINE.kind, whole),
    column(LINE.level, whole),
    column(LINE.rows, whole),
    ...(layout.below === undefined ? [] : [column(LINE.measure, whole)]),
    column(LINE.row, whole),
    ...keysOfLevels(layout.levels, fields),
    ...groupColumns(layout, fields).filter(({ id }) => /^(total|values|cell_rows|head|several)_/.test(id)),
    ...besideColumns(layout, fields),
    ...layout.marks.map((_mark, index) => column(markColumn(index), yesno)),
    ...stored.filter((each) => !isMade(each)),
  ];
}

const orderColumn = (level: number) => `order_${level}`;
const orderColumns = (layout: Layout) =>
  [0, ...layout.levels.map((_level, index) => index + 1)].map((level) => column(orderColumn(level), whole));

/** Everything and its grand total; in each group its header, what is in it, and before or behind that its totals. */
function orderOf(layout: Totalled, fields: readonly SheetField[]): readonly OrderBy[] {
  return [
    inOrder(field(orderColumn(0), whole)),
    ...layout.levels.flatMap((level, index) => [...groupOrder(level, index + 1, fields), inOrder(field(orderColumn(index + 1), whole))]),
    ...(layout.below === undefined ? [] : [inOrder(field(LINE.measure, whole))]),
    inOrder(field(LINE.row, whole)),
  ];
}

/** In the order they stand in: what a group begins with, its totals where they come first, what is in it, its totals. */
const BEFORE = 0;
const FIRST = 1;
const WITHIN = 2;
const BEHIND = 3;

/** A part of the union: each column from the input where it has one of the name, or as told. */
function part(
  input: Relation,
  columns: readonly Column[],
  layout: Layout,
  told: ReadonlyMap<string, Expression>,
  known: ReadonlySet<string>,
  orders: readonly number[],
): Relation {
  const all = [...columns, ...orderColumns(layout)];
  const order = new Map(
    orderColumns(layout).map((each, index) => [each.id, orders[index] === undefined ? nothing(whole) : number(orders[index])]),
  );
  const made = all.map((each) => ({
    id: `line ${each.id}`,
    name: each.name,
    type: each.type,
    expression: order.get(each.id) ?? told.get(each.id) ?? (known.has(each.id) ? field(each.id, each.type) : nothing(each.type)),
  }));
  return { node: 'calculate', input, kept: [], fields: made };
}

function rowLines(layout: Layout, fields: readonly SheetField[], plain: Relation, columns: readonly Column[]): Relation {
  const rows = withAverages(plain, layout, fields);
  const told = new Map<string, Expression>([
    [LINE.kind, number(LINE_KINDS.indexOf('row'))],
    ...layout.levels.flatMap((level, index) => keysOfRow(level, index + 1, fields).map(({ id, expression }) => [id, expression] as const)),
    ...layout.marks.flatMap((mark, index) => {
      // What stands on totals is told of them when they are read.
      const condition = mark.of === undefined ? markCondition(mark, fields).expression : undefined;
      return condition ? [[markColumn(index), condition] as const] : [];
    }),
  ]);
  const within = [WITHIN, ...layout.levels.map(() => WITHIN)];
  return part(rows, columns, layout, told, new Set(columnsOf(rows).map((each) => each.id)), within);
}

/** Rows with the averages of their groups, or of all of them, that marks compare with. */
function withAverages(rows: Relation, { levels, marks }: Layout, fields: readonly SheetField[]): Relation {
  const partition = levels.flatMap((level, index) => keysOfRow(level, index + 1, fields).map(({ expression }) => expression));
  const made = marks.flatMap((mark): readonly CalculatedColumn[] => {
    if (mark.of !== undefined || mark.against?.of !== 'average') return [];
    const of = closed(field(mark.field, typeOf(fields, mark.field)));
    const window = (name: Window['name'], type: FieldType): Window => ({ op: 'window', type, name, of: [of], partition, order: [] });
    const id = againstOf(mark);
    return [{ ...column(id, averageType(of.type)), expression: averageOf(window('sum', sumType(of.type)), window('count', whole)) }];
  });
  return made.length === 0 ? rows : { node: 'calculate', input: rows, fields: made };
}

/** A header for each group; of the last level only where its rows follow. */
function headerLines(layout: Layout, groups: Relation & { node: 'landed' }, columns: readonly Column[]): readonly Relation[] {
  const shown = layout.levels.length - (layout.rows ? 0 : 1);
  return layout.levels.slice(0, Math.max(0, shown)).map((_level, index) => {
    const level = index + 1;
    const orders = [WITHIN, ...layout.levels.map((_each, at) => (at + 1 < level ? WITHIN : BEFORE))].slice(0, level + 1);
    return groupLine('header', level, orders, layout, groups, columns);
  });
}

/** Totals behind each group of a level that shows them, or before what is in it, and behind everything. Without rows the last level is nothing but totals. */
function totalLines(layout: Totalled, groups: Relation & { node: 'landed' }, columns: readonly Column[]): readonly Relation[] {
  const last = layout.levels.length;
  const levels = layout.levels.flatMap(({ subtotal }, index) => (subtotal || (!layout.rows && index + 1 === last) ? [index + 1] : []));
  return [...levels, ...(layout.grandTotal ? [0] : [])].flatMap((level) => {
    const first = level === 0 ? layout.grandTotalFirst : layout.levels[level - 1]?.totalsFirst;
    const orders = [...Array.from({ length: level }, () => WITHIN), first ? FIRST : BEHIND];
    if (layout.below === undefined) return [groupLine('totals', level, orders, layout, groups, columns)];
    return Array.from({ length: layout.below }, (_each, measure) => groupLine('totals', level, orders, layout, groups, columns, measure));
  });
}

const ofLevel = (level: number, groups: Relation): Relation => ({
  node: 'filter',
  input: groups,
  condition: compare('=', field(LINE.level, whole), number(level)),
});

const INSIDE = 'inside';

/** The groups of a level whose totals are shown: where that is asked for, only those that have more than one in them. */
function ofSeveral(level: number, layout: Layout, groups: Relation & { node: 'landed' }): Relation {
  const last = level === layout.levels.length;
  const shown = ofLevel(level, groups);
  if (!layout.levels[level - 1]?.ofSeveral || (last && !layout.rows)) return shown;
  const several = (of: Expression) => compare('>', of, number(1));
  if (last) return { node: 'filter', input: shown, condition: several(field(LINE.rows, whole)) };
  // Groups of the next level share the keys of the one they stand in.
  const above = layout.levels.slice(0, level).flatMap((_each, at) => [keyColumn(at + 1), restColumn(at + 1)]);
  const partition = groups.columns.filter(({ id }) => above.includes(id));
  const next = when(compare('=', field(LINE.level, whole), number(level + 1)), number(1), nothing(whole));
  const inside: Window = {
    op: 'window',
    type: whole,
    name: 'count',
    of: [next],
    partition: partition.map(({ id, type }) => field(id, type)),
    order: [],
  };
  const counted: Relation = { node: 'calculate', input: groups, fields: [{ ...column(INSIDE, whole), expression: inside }] };
  return { node: 'filter', input: ofLevel(level, counted), condition: several(field(INSIDE, whole)) };
}

function groupLine(
  kind: LineKind,
  level: number,
  orders: readonly number[],
  layout: Layout & Partial<Pick<Totalled, 'totals' | 'below'>>,
  groups: Relation & { node: 'landed' },
  columns: readonly Column[],
  measure?: number,
): Relation {
  const input = kind === 'totals' ? ofSeveral(level, layout, groups) : ofLevel(level, groups);
  const told = new Map<string, Expression>([
    [LINE.kind, number(LINE_KINDS.indexOf(kind))],
    [LINE.measure, measure === undefined ? nothing(whole) : number(measure)],
  ]);
  const shown = (id: string) => {
    const index = (layout.totals ?? []).findIndex(
      (_total, at) => totalColumn(at) === id || valuesColumn(at) === id || id.startsWith(`beside_${at}_`),
    );
    if (index < 0) return true;
    return kind === 'totals' && (measure === undefined || index % (layout.below ?? 1) === measure);
  };
  const known = new Set(groups.columns.map((each) => each.id).filter(shown));
  return part(input, columns, layout, told, known, orders);
}
