import type { Expression, OrderBy, Window } from '../expressions';
import { all, arithmetic, closed, compare, when, wholeLiteral } from '../expressions';
import type { FieldType } from '../fields';
import { isOpen, whole, yesno } from '../fields';
import type { CalculatedColumn, Column, GroupKey, MeasureColumn, Relation } from '../sql';
import type { SheetField } from '../sheet';
import { aggregateType } from '../sheet';
import { levelOfTotal } from './check';
import { nothing } from './besides';
import {
  alike,
  averages,
  column,
  field,
  figureColumn,
  groupColumns,
  keyColumn,
  keysOfLevels,
  keysOfRow,
  LINE,
  restColumn,
  shownColumn,
  totalColumn,
  totalled,
  totalType,
  typeOf,
  valuesColumn,
} from './columns';
import { headFields, headMeasures, withoutHeads } from './heads';
import type { Figure, Layout, Level, Total } from './layout';
import { listedFirst } from './written-order';

const ROWS = 'rows';

/** The rows of a result as they are landed, each with its number. */
export function landedRows(stored: readonly StoredOrMade[]): Relation {
  const plain = stored.filter((each) => !isMade(each)).map(({ id, name, type }) => ({ id, name, type }));
  const made = stored.filter(isMade);
  const rows: Relation = { node: 'landed', handle: ROWS, columns: [...plain, { id: LINE.row, name: LINE.row, type: whole }] };
  return made.length === 0 ? rows : { node: 'calculate', input: rows, fields: made };
}

/** A column of the stored rows, or one that is made of them. */
export type StoredOrMade = Column | CalculatedColumn;
export const isMade = (column: StoredOrMade): column is CalculatedColumn => 'expression' in column;

/** Every group of every level in one pass; what only adds up within a date is added at the last date of each group. */
export function grouped(layout: Layout & { readonly totals: readonly Total[] }, fields: readonly SheetField[], rows: Relation): Relation {
  const keys = layout.levels.flatMap((level, index) =>
    keysOfRow(level, index + 1, fields).map((key, at): GroupKey => (at === 0 ? key : { ...key, besides: true })),
  );
  const lasts = layout.totals.flatMap((total, index) => lastOf(layout, total, index, fields));
  const input: Relation =
    lasts.length === 0
      ? rows
      : { node: 'calculate', input: rows, fields: lasts.map(({ id, of }) => ({ ...column(id, of.type), expression: of })) };
  const measures = [
    ...layout.totals.flatMap((total, index) => measuresOf(layout, total, index, fields)),
    ...headMeasures(layout.levels, fields),
  ];
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
    input: { node: 'calculate', input: group, kept, fields: [...totals, ...values, ...headFields(layout.levels, fields, LINE.rows)] },
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
    const partition = layout.levels
      .slice(0, level)
      .flatMap((each, at) => keysOfRow(each, at + 1, fields).map(({ expression }) => expression));
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
  const shown = compare('>=', field(LINE.level, whole), wholeLiteral(from));
  return { op: 'case', type, branches: [{ when: shown, then: told }], otherwise: nothing(type) };
}

/** Out of its parts: an average is the sum divided by the count, rounded once. */
function partsTogether(layout: Layout, total: Total, index: number, fields: readonly SheetField[], type: FieldType): Expression {
  const part = (name: string | number, of: FieldType) => field(partColumn(index, name), of);
  if (lastField(total, fields)) {
    const branches = layout.levels.map((_level, at) => ({
      when: compare('=', field(LINE.level, whole), wholeLiteral(at + 1)),
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
export const addsOpen = (fields: readonly SheetField[], { field: id, aggregate }: Total): boolean =>
  isOpen(typeOf(fields, id)) && (aggregate === 'sum' || aggregate === 'average');

export const inOrder = (of: Expression, descending = false): OrderBy => ({ of, descending, nullsFirst: false });

/** The order in which the groups of a level stand within those above; its figure is the one `withFigures` gives. */
export function groupOrder(level: Level, number: number, fields: readonly SheetField[]): readonly OrderBy[] {
  const { descending, by: figure, first, shown } = level;
  const key = field(keyColumn(number), typeOf(fields, level.field));
  return [
    ...(first === undefined ? [] : [inOrder(field(restColumn(number), yesno))]),
    ...(figure ? [inOrder(closed(field(figureColumn(number), figureType(fields, figure))), descending)] : []),
    ...listedFirst(key, level),
    // Groups of one figure stand in the order of their values, upwards; those shown alike in that of what tells them apart.
    ...(shown === undefined ? [] : [inOrder(field(shownColumn(number), typeOf(fields, shown)), !figure && descending)]),
    inOrder(closed(key), !figure && descending),
  ];
}

const figureType = (fields: readonly SheetField[], by: Figure): FieldType => totalType(fields, by);

/** Lines with the figures their groups stand in the order of, each of the group the line belongs to at that level. */
export function withFigures(lines: Relation, layout: Pick<Layout, 'levels'>, fields: readonly SheetField[], rows: Relation): Relation {
  return layout.levels.reduce((input: Relation, { by }, index) => {
    if (!by) return input;
    const levels = layout.levels.slice(0, index + 1);
    const keys = keysOfLevels(levels, fields);
    const own = (id: string) => `${figureColumn(index + 1)}_${id}`;
    const figures: Relation = {
      node: 'calculate',
      input: groupsOf(levels, [by], fields, rows),
      kept: [],
      fields: [
        ...keys.map((each) => ({ ...each, id: own(each.id), name: own(each.id), expression: field(each.id, each.type) })),
        { ...column(figureColumn(index + 1), figureType(fields, by)), expression: field(totalColumn(0), figureType(fields, by)) },
      ],
    };
    const on = keys.flatMap(({ id, type }) => alike(field(id, type), field(own(id), type)));
    return { node: 'join', left: input, right: figures, on: all(...on), keeps: 'left' };
  }, lines);
}

/** The groups of the last of these levels, with these totals. */
export function groupsOf(levels: readonly Level[], totals: readonly Total[], fields: readonly SheetField[], rows: Relation): Relation {
  const layout = { levels: withoutHeads(levels), rows: false, grandTotal: false, marks: [], totals };
  const last = compare('=', field(LINE.level, whole), wholeLiteral(levels.length));
  return { node: 'filter', input: grouped(layout, fields, rows), condition: last };
}
