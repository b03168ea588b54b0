import type { Expression, OrderBy } from '../expressions';
import { all, compare, isNull, not, wholeLiteral } from '../expressions';
import type { FieldId, FieldType } from '../fields';
import { whole, yesno } from '../fields';
import type { Column, MeasureColumn, Relation } from '../sql';
import type { SheetField } from '../sheet';
import type { Value } from '../values';
import type { Across, Layout, Total } from './layout';
import { withBeside } from './beside';
import { MOST_ACROSS } from './layout';
import type { ProofRelations } from './lines';
import { averages, cellRowsColumn, groupColumns, keyColumn, LINE, totalColumn, totalType, valuesColumn } from './columns';
import { listedFirst } from './written-order';
import { grouped, groupsOf, landedRows, linesOf } from './lines';

type Fitting = Layout & { readonly across: Across; readonly totals: readonly Total[] };

/** What a layout with columns per value is made of: groups down and across, which `groups` puts side by side. */
export interface CrosstabRelations extends ProofRelations {
  /** Groups by what stands across, and within that by what stands down; landed as `across`. */
  readonly across: Relation;
  /** Groups by what stands down alone: the totals over all columns; landed as `down`. */
  readonly down: Relation;
}

const VALUE = 'across_value';
const IN_COLUMN = 'in_column';

/** The values that stand across, in their order, one more of them than may. */
export function acrossValues({ across }: Fitting, fields: readonly SheetField[], stored: readonly Column[]): Relation {
  const type = typeOf(fields, across.field);
  const { by, descending } = across;
  const rows = landedRows(stored);
  const values: Relation = {
    node: 'group',
    input: rows,
    keys: [{ id: VALUE, name: VALUE, type, expression: { op: 'field', id: across.field, type } }],
    counts: [{ id: LINE.rows }],
  };
  const own: Expression = { op: 'field', id: by ? keyColumn(1) : VALUE, type };
  const inOrder = (of: Expression, down: boolean): OrderBy => ({ of, descending: down, nullsFirst: false });
  const order = by
    ? [inOrder({ op: 'field', id: totalColumn(0), type: totalType(fields, by) }, descending), inOrder(own, false)]
    : [...listedFirst(own, across), inOrder(own, descending)];
  const input = by ? groupsOf([{ ...across, subtotal: false }], by, fields, rows) : values;
  const sorted: Relation = { node: 'limit', input, count: MOST_ACROSS + 1, order };
  if (by) return { node: 'calculate', input: sorted, kept: [], fields: [{ id: VALUE, name: VALUE, type, expression: own }] };
  return { node: 'choose', input: sorted, columns: [{ id: VALUE, name: VALUE, type }] };
}

/**
 * The totals of a line with columns per value: those of each column one after the other, then those over all columns.
 * Which total of which column a place is follows from its number.
 */
export function acrossTotals({ across, totals }: Fitting, columns: number): readonly Total[] {
  // Without rows there may be no column at all.
  return Array.from({ length: Math.max(1, columns + (across.total ? 1 : 0)) }, () => totals).flat();
}

/**
 * A result told with one column per value. Groups are made twice, with and without what stands across, so that a total
 * over columns is made of the rows and not of other figures; each group's figures are then put side by side.
 */
export function crosstabRelations(
  layout: Fitting,
  fields: readonly SheetField[],
  stored: readonly Column[],
  values: readonly Value[],
): CrosstabRelations {
  const { across, levels, totals } = layout;
  const { across: _across, ...plain } = layout;
  const rows = landedRows(stored);
  const first = { field: across.field, descending: false, subtotal: false };
  const byBoth = { ...plain, levels: [first, ...levels] };
  const acrossLanded: Relation = { node: 'landed', handle: 'across', columns: groupColumns(byBoth, fields) };
  const downLanded: Relation = { node: 'landed', handle: 'down', columns: groupColumns(plain, fields) };
  const type = typeOf(fields, across.field);
  const keys = levels.map((level, index) => column(keyColumn(index + 1), typeOf(fields, level.field)));
  const told = groupColumns(plain, fields).filter(({ id }) => id.startsWith('total_') || id.startsWith('values_'));
  const side: readonly Column[] = [
    ...keys,
    column(LINE.level, whole),
    column(LINE.rows, whole),
    column(VALUE, type),
    column(IN_COLUMN, yesno),
    ...told,
  ];
  const field = (id: FieldId, of: FieldType): Expression => ({ op: 'field', id, type: of });
  const level = field(LINE.level, whole);
  // The groups across begin with a level of their own, which is none of the line.
  const inColumns: Relation = {
    node: 'calculate',
    input: { node: 'filter', input: acrossLanded, condition: compare('>', level, wholeLiteral(0)) },
    kept: [],
    fields: [
      ...keys.map((each, index) => ({ ...named('in', each), expression: field(keyColumn(index + 2), each.type) })),
      {
        ...named('in', column(LINE.level, whole)),
        expression: { op: 'call', name: 'subtractSmall', type: whole, of: [level, wholeLiteral(1)] },
      },
      { ...named('in', column(LINE.rows, whole)), expression: field(LINE.rows, whole) },
      { ...named('in', column(VALUE, type)), expression: field(keyColumn(1), type) },
      { ...named('in', column(IN_COLUMN, yesno)), expression: literal(yesno, true) },
      ...told.map((each) => ({ ...named('in', each), expression: field(each.id, each.type) })),
    ],
  };
  const overAll: Relation = {
    node: 'calculate',
    input: downLanded,
    kept: [],
    fields: [
      ...keys.map((each) => ({ ...named('over', each), expression: field(each.id, each.type) })),
      { ...named('over', column(LINE.level, whole)), expression: level },
      { ...named('over', column(LINE.rows, whole)), expression: field(LINE.rows, whole) },
      { ...named('over', column(VALUE, type)), expression: literal(type, null) },
      { ...named('over', column(IN_COLUMN, yesno)), expression: literal(yesno, false) },
      ...told.map((each) => ({ ...named('over', each), expression: field(each.id, each.type) })),
    ],
  };
  const both: Relation = { node: 'union', inputs: [inColumns, overAll], columns: side };
  const inColumn = field(IN_COLUMN, yesno);
  const places: readonly Expression[] = [
    ...values.map((value) => {
      const own = field(VALUE, type);
      return all(inColumn, value === null ? isNull(own) : compare('=', own, literal(type, value)));
    }),
    ...(across.total || values.length === 0 ? [not(inColumn)] : []),
  ];
  const averaged = new Set(averages(layout));
  const taken = (id: FieldId, from: Column, when: Expression): MeasureColumn => ({
    ...column(id, from.type),
    aggregate: 'greatest',
    of: field(from.id, from.type),
    when,
  });
  const measures = places.flatMap((when, place) => [
    taken(cellRowsColumn(place), column(LINE.rows, whole), when),
    ...totals.flatMap((_total, index) => {
      const at = place * totals.length + index;
      const from = told.find((each) => each.id === totalColumn(index)) ?? column(totalColumn(index), whole);
      const counted = averaged.has(index) ? [taken(valuesColumn(at), column(valuesColumn(index), whole), when)] : [];
      return [taken(totalColumn(at), from, when), ...counted];
    }),
  ]);
  const group: Relation = {
    node: 'group',
    input: both,
    keys: [...keys, column(LINE.level, whole)].map((each) => ({ ...each, expression: field(each.id, each.type) })),
    counts: [],
    measures: [taken(LINE.rows, column(LINE.rows, whole), not(inColumn)), ...measures],
  };
  const wide = { ...plain, rows: false, totals: acrossTotals(layout, values.length), together: true as const, places: places.length };
  const groups: Relation = { node: 'choose', input: group, columns: groupColumns(wide, fields) };
  return {
    ...linesOf(wide, fields, stored, withBeside(groups, wide, fields, rows)),
    across: grouped(byBoth, fields, rows),
    down: grouped(plain, fields, rows),
  };
}

const column = (id: string, type: FieldType): Column => ({ id, name: id, type });
const named = (where: string, { id, name, type }: Column): Column => ({ id: `${where} ${id}`, name, type });
const literal = (type: FieldType, value: Value): Expression => ({ op: 'literal', type, value });
const typeOf = (fields: readonly SheetField[], id: FieldId): FieldType => fields.find((each) => each.id === id)?.type ?? whole;
