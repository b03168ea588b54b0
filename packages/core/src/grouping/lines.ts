import type { Expression, OrderBy, Window } from '../expressions';
import { all, arithmetic, closed, compare, when } from '../expressions';
import type { FieldType } from '../fields';
import { isOpen, whole, yesno } from '../fields';
import { withNulls } from '../joins';
import type { CalculatedColumn, Column, MeasureColumn, Relation } from '../sql';
import { columnsOf } from '../sql';
import type { Aggregate, SheetField } from '../sheet';
import { aggregateType, AGGREGATES } from '../sheet';
import { ofWhole } from '../values';
import { levelOfTotal, markCondition } from './check';
import { besideColumns } from './besides';
import type { LineKind, Totalled } from './columns';
import {
  averages,
  column,
  field,
  figureColumn,
  groupColumns,
  keyColumn,
  LINE,
  LINE_KINDS,
  markColumn,
  totalColumn,
  totalled,
  totalType,
  typeOf,
  valuesColumn,
} from './columns';
import type { Figure, Layout, Level, Total } from './layout';
import { listedFirst } from './written-order';

/** What the lines of a proof are made of: the groups first, then the lines from the rows and the groups. */
export interface ProofRelations {
  readonly groups: Relation;
  readonly lines: Relation;
  readonly columns: readonly Column[];
}

const ROWS = 'rows';
const GROUPS = 'groups';

/** The rows of a result as they are landed, each with its number. */
export function landedRows(stored: readonly StoredOrMade[]): Relation {
  const plain = stored.filter((each) => !isMade(each)).map(({ id, name, type }) => ({ id, name, type }));
  const made = stored.filter(isMade);
  const rows: Relation = { node: 'landed', handle: ROWS, columns: [...plain, { id: LINE.row, name: LINE.row, type: whole }] };
  return made.length === 0 ? rows : { node: 'calculate', input: rows, fields: made };
}

/** A column of the stored rows, or one that is made of them. */
type StoredOrMade = Column | CalculatedColumn;
const isMade = (column: StoredOrMade): column is CalculatedColumn => 'expression' in column;

/** The lines of groups that are landed as `groups`, with the result's rows between them where the layout shows them. */
export function linesOf(layout: Totalled, fields: readonly SheetField[], stored: readonly Column[], groups: Relation): ProofRelations {
  const rows = landedRows(stored);
  const landed: Relation = { node: 'landed', handle: GROUPS, columns: [...groupColumns(layout, fields), ...besideColumns(layout, fields)] };
  const columns = lineColumns(layout, fields, stored);
  const parts = [
    ...(layout.rows ? [rowLines(layout, fields, rows, columns)] : []),
    ...headerLines(layout, landed, columns),
    ...totalLines(layout, landed, columns),
  ];
  // A layout that shows nothing has no lines: no group is of this level.
  const inputs = parts.length > 0 ? parts : [groupLine('totals', -1, [BEHIND], undefined, layout, landed, columns)];
  const union: Relation = { node: 'union', inputs, columns: [...columns, ...orderColumns(layout)] };
  const sorted: Relation = { node: 'sort', input: withFigures(union, layout, fields, rows), order: orderOf(layout, fields) };
  return { groups, lines: { node: 'choose', input: sorted, columns }, columns };
}

const number = (value: number): Expression => ({ op: 'literal', type: whole, value: ofWhole(BigInt(value)) });
const nothing = (type: FieldType): Expression => ({ op: 'literal', type, value: null });
/** Every group of every level in one pass; what only adds up within a date is added at the last date of each group. */
export function grouped(layout: Layout & { readonly totals: readonly Total[] }, fields: readonly SheetField[], rows: Relation): Relation {
  const keys = layout.levels.map((level, index) => ({
    ...column(keyColumn(index + 1), typeOf(fields, level.field)),
    expression: field(level.field, typeOf(fields, level.field)),
  }));
  const lasts = layout.totals.flatMap((total, index) => lastOf(layout, total, index, fields));
  const input: Relation =
    lasts.length === 0
      ? rows
      : { node: 'calculate', input: rows, fields: lasts.map(({ id, of }) => ({ ...column(id, of.type), expression: of })) };
  const measures = layout.totals.flatMap((total, index) => measuresOf(layout, total, index, fields));
  const group: Relation = { node: 'group', input, keys, counts: [{ id: LINE.rows }], measures, levels: LINE.level };
  const totals = layout.totals.map((total, index) => {
    const type = totalType(fields, total);
    return { ...column(totalColumn(index), type), expression: totalOf(layout, total, index, fields, type) };
  });
  const values = averages(layout).map((index) => ({
    ...column(valuesColumn(index), whole),
    expression: field(partColumn(index, 'count'), whole),
  }));
  const kept = [...keys.map((each) => each.id), LINE.level, LINE.rows];
  return {
    node: 'choose',
    input: { node: 'calculate', input: group, kept, fields: [...totals, ...values] },
    columns: groupColumns(layout, fields),
  };
}

/** Whether a total is added at the last date of a group only, and which date that is. */
function lastField({ field: id, aggregate }: Total, fields: readonly SheetField[]): SheetField | undefined {
  const measure = fields.find((each) => each.id === id);
  if (aggregate !== 'sum' || measure?.addsUp !== 'over everything but dates, then last') return undefined;
  return fields.find((each) => each.id === measure.lastBy);
}

const lastColumn = (index: number, level: number) => `last_${index}_${level}`;
const partColumn = (index: number, part: string | number) => `part_${index}_${part}`;

/** Per level: whether a row is of the last date of its group. */
function lastOf(
  layout: Layout,
  total: Total,
  index: number,
  fields: readonly SheetField[],
): readonly { readonly id: string; readonly of: Expression }[] {
  const date = lastField(total, fields);
  if (!date) return [];
  return [0, ...layout.levels.map((_level, at) => at + 1)].map((level) => {
    const partition = layout.levels.slice(0, level).map((each) => field(each.field, typeOf(fields, each.field)));
    const last: Window = { op: 'window', type: date.type, name: 'max', of: [field(date.id, date.type)], partition, order: [] };
    return { id: lastColumn(index, level), of: last };
  });
}

function measuresOf(layout: Layout, total: Total, index: number, fields: readonly SheetField[]): readonly MeasureColumn[] {
  const of = totalled(fields, total);
  const { type } = of;
  const sum = (id: string, among?: Expression): MeasureColumn => {
    const base = { ...column(id, aggregateType('sum', type)), aggregate: 'sum' as const, of };
    return among ? { ...base, when: among } : base;
  };
  const date = lastField(total, fields);
  if (date)
    return [0, ...layout.levels.map((_level, at) => at + 1)].map((level) =>
      sum(partColumn(index, level), compare('=', field(date.id, date.type), field(lastColumn(index, level), date.type))),
    );
  const counted = (id: string, each: Expression): MeasureColumn => ({ ...column(id, whole), aggregate: 'count', of: each });
  const present = addsOpen(fields, total) ? [counted(partColumn(index, 'present'), field(total.field, typeOf(fields, total.field)))] : [];
  if (total.aggregate === 'average') return [sum(partColumn(index, 'sum')), counted(partColumn(index, 'count'), of), ...present];
  if (total.aggregate === 'sum')
    return [sum(partColumn(index, 'all')), ...(present.length > 0 ? [counted(partColumn(index, 'count'), of), ...present] : [])];
  return [{ ...column(partColumn(index, 'all'), aggregateType(total.aggregate, type)), aggregate: total.aggregate, of }];
}

/** A total, as far as it is shown: what adds up within one grouping is told in groups of one only. */
function totalOf(
  layout: Layout & { readonly totals: readonly Total[] },
  total: Total,
  index: number,
  fields: readonly SheetField[],
  type: FieldType,
): Expression {
  const told = partsTogether(layout, total, index, fields, type);
  const from = levelOfTotal(
    layout,
    total,
    fields.find((each) => each.id === total.field),
  );
  // Told by what stands across only, it has no total over all of that.
  if (from === undefined) return nothing(type);
  if (from === 0) return told;
  const shown = compare('>=', field(LINE.level, whole), number(from));
  return { op: 'case', type, branches: [{ when: shown, then: told }], otherwise: nothing(type) };
}

/** Out of its parts: an average is the sum divided by the count, rounded once. */
function partsTogether(layout: Layout, total: Total, index: number, fields: readonly SheetField[], type: FieldType): Expression {
  const part = (name: string | number, of: FieldType) => field(partColumn(index, name), of);
  if (lastField(total, fields)) {
    const branches = layout.levels.map((_level, at) => ({
      when: compare('=', field(LINE.level, whole), number(at + 1)),
      then: part(at + 1, type),
    }));
    return branches.length === 0 ? part(0, type) : { op: 'case', type, branches, otherwise: part(0, type) };
  }
  const sumType = aggregateType('sum', totalled(fields, total).type);
  const told = total.aggregate === 'average' ? arithmetic('/', part('sum', sumType), part('count', whole)) : part('all', type);
  if (!addsOpen(fields, total)) return told;
  // A number that does not fit the digits of a sum is not left out of it: then there is no sum.
  return when(compare('=', part('present', whole), part('count', whole)), told, nothing(type));
}

/** Whether a total adds up numbers without a fixed scale. */
const addsOpen = (fields: readonly SheetField[], { field: id, aggregate }: Total): boolean =>
  isOpen(typeOf(fields, id)) && (aggregate === 'sum' || aggregate === 'average');

/** Columns of a line: what it is, its keys, the row's own values, its totals, and which marks show. */
function lineColumns(layout: Totalled, fields: readonly SheetField[], stored: readonly Column[]): readonly Column[] {
  return [
    column(LINE.kind, whole),
    column(LINE.level, whole),
    column(LINE.rows, whole),
    column(LINE.aggregate, whole),
    column(LINE.row, whole),
    ...layout.levels.map((level, index) => column(keyColumn(index + 1), typeOf(fields, level.field))),
    ...groupColumns(layout, fields).filter(({ id }) => /^(total|values|cell_rows)_/.test(id)),
    ...besideColumns(layout, fields),
    ...layout.marks.map((_mark, index) => column(markColumn(index), yesno)),
    ...stored.filter((each) => !isMade(each)),
  ];
}

const orderColumn = (level: number) => `order_${level}`;
const orderColumns = (layout: Layout) =>
  [0, ...layout.levels.map((_level, index) => index + 1)].map((level) => column(orderColumn(level), whole));

/** Everything and its grand total; in each group its header, what is in it, and before or behind that its totals. */
function orderOf(layout: Layout, fields: readonly SheetField[]): readonly OrderBy[] {
  return [
    inOrder(field(orderColumn(0), whole)),
    ...layout.levels.flatMap((level, index) => [...groupOrder(level, index + 1, fields), inOrder(field(orderColumn(index + 1), whole))]),
    inOrder(field(LINE.aggregate, whole)),
    inOrder(field(LINE.row, whole)),
  ];
}

const inOrder = (of: Expression, descending = false): OrderBy => ({ of, descending, nullsFirst: false });

/** The order in which the groups of a level stand within those above; its figure is the one `withFigures` gives. */
export function groupOrder(level: Level, number: number, fields: readonly SheetField[]): readonly OrderBy[] {
  const { descending, by: figure } = level;
  const key = field(keyColumn(number), typeOf(fields, level.field));
  return [
    ...(figure ? [inOrder(closed(field(figureColumn(number), figureType(fields, figure))), descending)] : []),
    ...listedFirst(key, level),
    // Groups of one figure stand in the order of their values, upwards.
    inOrder(closed(key), !figure && descending),
  ];
}

const figureType = (fields: readonly SheetField[], by: Figure): FieldType => totalType(fields, by);

/** Lines with the figures their groups stand in the order of, each of the group the line belongs to at that level. */
export function withFigures(lines: Relation, layout: Layout, fields: readonly SheetField[], rows: Relation): Relation {
  return layout.levels.reduce((input: Relation, { by }, index) => {
    if (!by) return input;
    const levels = layout.levels.slice(0, index + 1);
    const keys = levels.map((each, at) => column(keyColumn(at + 1), typeOf(fields, each.field)));
    const own = (id: string) => `${figureColumn(index + 1)}_${id}`;
    const figures: Relation = {
      node: 'calculate',
      input: groupsOf(levels, by, fields, rows),
      kept: [],
      fields: [
        ...keys.map((each) => ({ ...each, id: own(each.id), name: own(each.id), expression: field(each.id, each.type) })),
        { ...column(figureColumn(index + 1), figureType(fields, by)), expression: field(totalColumn(0), figureType(fields, by)) },
      ],
    };
    // Null is a group like others.
    const on = keys.flatMap(({ id, type }) => {
      const theirs = withNulls(field(own(id), type));
      return withNulls(field(id, type)).flatMap((each, at) => (theirs[at] ? [compare('=', each, theirs[at])] : []));
    });
    return { node: 'join', left: input, right: figures, on: all(...on), keeps: 'left' };
  }, lines);
}

/** The groups of the last of these levels with one figure, as `total_0`. */
export function groupsOf(levels: readonly Level[], by: Figure, fields: readonly SheetField[], rows: Relation): Relation {
  const layout = { levels, rows: false, grandTotal: false, marks: [], totals: [by] };
  const last = compare('=', field(LINE.level, whole), number(levels.length));
  return { node: 'filter', input: grouped(layout, fields, rows), condition: last };
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

function rowLines(layout: Layout, fields: readonly SheetField[], rows: Relation, columns: readonly Column[]): Relation {
  const told = new Map<string, Expression>([
    [LINE.kind, number(LINE_KINDS.indexOf('row'))],
    ...layout.levels.map(({ field: id }, index) => [keyColumn(index + 1), field(id, typeOf(fields, id))] as const),
    ...layout.marks.flatMap((mark, index) => {
      const of = fields.find((each) => each.id === mark.field);
      // What stands on totals is told of them when they are read.
      const condition = of && mark.of === undefined ? markCondition(mark, of).expression : undefined;
      return condition ? [[markColumn(index), condition] as const] : [];
    }),
  ]);
  const within = [WITHIN, ...layout.levels.map(() => WITHIN)];
  return part(rows, columns, layout, told, new Set(columnsOf(rows).map((each) => each.id)), within);
}

/** A header for each group; of the last level only where its rows follow. */
function headerLines(layout: Layout, groups: Relation & { node: 'landed' }, columns: readonly Column[]): readonly Relation[] {
  const shown = layout.levels.length - (layout.rows ? 0 : 1);
  return layout.levels.slice(0, Math.max(0, shown)).map((_level, index) => {
    const level = index + 1;
    const orders = [WITHIN, ...layout.levels.map((_each, at) => (at + 1 < level ? WITHIN : BEFORE))].slice(0, level + 1);
    return groupLine('header', level, orders, undefined, layout, groups, columns);
  });
}

/** Totals behind each group of a level that shows them, or before what is in it, one line per aggregate, and behind everything. Without rows the last level is nothing but totals. */
function totalLines(layout: Totalled, groups: Relation & { node: 'landed' }, columns: readonly Column[]): readonly Relation[] {
  const used = AGGREGATES.filter((each) => layout.totals.some(({ aggregate }) => aggregate === each));
  const aggregates: readonly (Aggregate | undefined)[] = used.length === 0 || layout.together ? [undefined] : used;
  const last = layout.levels.length;
  const levels = layout.levels.flatMap(({ subtotal }, index) => (subtotal || (!layout.rows && index + 1 === last) ? [index + 1] : []));
  return [...levels, ...(layout.grandTotal ? [0] : [])].flatMap((level) => {
    const first = level === 0 ? layout.grandTotalFirst : layout.levels[level - 1]?.totalsFirst;
    const orders = [...Array.from({ length: level }, () => WITHIN), first ? FIRST : BEHIND];
    return aggregates.map((aggregate) => groupLine('totals', level, orders, aggregate, layout, groups, columns));
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
  const partition = groups.columns.filter(({ id }) => layout.levels.slice(0, level).some((_each, at) => keyColumn(at + 1) === id));
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
  aggregate: Aggregate | undefined,
  layout: Layout & Partial<Pick<Totalled, 'totals' | 'together'>>,
  groups: Relation & { node: 'landed' },
  columns: readonly Column[],
): Relation {
  const input = kind === 'totals' ? ofSeveral(level, layout, groups) : ofLevel(level, groups);
  const told = new Map<string, Expression>([
    [LINE.kind, number(LINE_KINDS.indexOf(kind))],
    [LINE.aggregate, aggregate === undefined ? nothing(whole) : number(AGGREGATES.indexOf(aggregate))],
  ]);
  const shown = (id: string) => {
    const index = (layout.totals ?? []).findIndex(
      (_total, at) => totalColumn(at) === id || valuesColumn(at) === id || id.startsWith(`beside_${at}_`),
    );
    return index < 0 || (layout.together && kind === 'totals') || layout.totals?.[index]?.aggregate === aggregate;
  };
  const known = new Set(groups.columns.map((each) => each.id).filter(shown));
  return part(input, columns, layout, told, known, orders);
}
