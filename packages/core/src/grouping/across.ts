import type { Expression } from '../expressions';
import { all, compare, isNull, wholeLiteral } from '../expressions';
import type { FieldType } from '../fields';
import { whole } from '../fields';
import type { CalculatedColumn, Column, MeasureColumn, Relation } from '../sql';
import type { SheetField } from '../sheet';
import type { Value } from '../values';
import { readValue } from '../values';
import type { Across, Layout, Total } from './layout';
import { withBeside } from './beside';
import { MOST_ACROSS } from './layout';
import type { ProofRelations } from './lines';
import { averages, cellRowsColumn, column, field, groupColumns, keyColumn, LINE, totalColumn, typeOf, valuesColumn } from './columns';
import { groupOrder, grouped, landedRows, linesOf, withFigures } from './lines';
import type { AcrossPlace } from './places';
import { acrossPlaces } from './places';

type Fitting = Layout & { readonly across: Across; readonly totals: readonly Total[] };

/** What a layout with columns per value is made of: groups down and across, which `groups` puts side by side. */
export interface CrosstabRelations extends ProofRelations {
  /** Groups by so many of the levels across, and within those by what stands down; landed as `across_0`, `across_1` …, by their number. */
  readonly across: readonly { readonly handle: string; readonly groups: Relation }[];
}

const DEPTH = 'across_depth';
const valueColumn = (level: number) => `across_value_${level}`;

/** The values that stand across, those of each level in its order within the ones before; one more of them than may. */
export function acrossValues({ across: { levels } }: Fitting, fields: readonly SheetField[], stored: readonly Column[]): Relation {
  const rows = landedRows(stored);
  const own: Layout & { readonly totals: readonly Total[] } = { levels, rows: false, grandTotal: false, marks: [], totals: [] };
  const last = compare('=', field(LINE.level, whole), wholeLiteral(levels.length));
  const groups: Relation = { node: 'filter', input: grouped(own, fields, rows), condition: last };
  const order = levels.flatMap((level, index) => groupOrder(level, index + 1, fields));
  const sorted: Relation = { node: 'limit', input: withFigures(groups, own, fields, rows), count: MOST_ACROSS + 1, order };
  return {
    node: 'calculate',
    input: sorted,
    kept: [],
    fields: levels.map((level, index) => made(valueColumn(index + 1), field(keyColumn(index + 1), typeOf(fields, level.field)))),
  };
}

/**
 * A result told with one column per value. Groups are made with all that stands across, with less of it, and without, so
 * that a total over columns is made of the rows and not of other figures; each group's figures are then put side by side.
 * The totals of a line are those of each place one after the other.
 */
export function crosstabRelations(
  layout: Fitting,
  fields: readonly SheetField[],
  stored: readonly Column[],
  found: readonly AcrossPlace[],
): CrosstabRelations {
  const { across, levels, totals } = layout;
  const { across: _across, ...plain } = layout;
  const rows = landedRows(stored);
  const places = acrossPlaces(across, found);
  // Those over everything also say how many rows a line is of.
  const depths = [0, ...across.levels.map((_level, index) => index + 1)].filter(
    (depth) => depth === 0 || places.some((each) => each.length === depth),
  );
  const keys = levels.map((level, index) => column(keyColumn(index + 1), typeOf(fields, level.field)));
  const told = groupColumns(plain, fields).filter(({ id }) => id.startsWith('total_') || id.startsWith('values_'));
  const values = across.levels.map((level, index) => column(valueColumn(index + 1), typeOf(fields, level.field)));
  const side: readonly Column[] = [...keys, column(LINE.level, whole), column(LINE.rows, whole), column(DEPTH, whole), ...values, ...told];
  const parts = depths.map((depth) => {
    const both = { ...plain, levels: [...across.levels.slice(0, depth), ...levels] };
    const handle = `across_${depth}`;
    const landed: Relation = { node: 'landed', handle, columns: groupColumns(both, fields) };
    return { handle, groups: grouped(both, fields, rows), beside: besideOthers(landed, depth, side, keys, values) };
  });
  const both: Relation = { node: 'union', inputs: parts.map((each) => each.beside), columns: side };
  const averaged = new Set(averages(layout));
  const taken = (id: string, from: Column, when: Expression): MeasureColumn => ({
    ...column(id, from.type),
    aggregate: 'greatest',
    of: field(from.id, from.type),
    when,
  });
  const measures = places.flatMap((each, place) => {
    const when = isOf(each, values);
    return [
      taken(cellRowsColumn(place), column(LINE.rows, whole), when),
      ...totals.flatMap((_total, index) => {
        const at = place * totals.length + index;
        const from = told.find(({ id }) => id === totalColumn(index)) ?? column(totalColumn(index), whole);
        const counted = averaged.has(index) ? [taken(valuesColumn(at), column(valuesColumn(index), whole), when)] : [];
        return [taken(totalColumn(at), from, when), ...counted];
      }),
    ];
  });
  const group: Relation = {
    node: 'group',
    input: both,
    keys: [...keys, column(LINE.level, whole)].map((each) => ({ ...each, expression: field(each.id, each.type) })),
    counts: [],
    measures: [taken(LINE.rows, column(LINE.rows, whole), isOf([], values)), ...measures],
  };
  const wide = { ...plain, rows: false, totals: places.flatMap(() => totals), together: true as const, places: places.length };
  const groups: Relation = { node: 'choose', input: group, columns: groupColumns(wide, fields) };
  return {
    ...linesOf(wide, fields, stored, withBeside(groups, wide, fields, rows)),
    across: parts.map(({ handle, groups: of }) => ({ handle, groups: of })),
  };
}

/** Groups by so many levels across, as columns all of them share: the levels across are none of the line. */
function besideOthers(
  landed: Relation,
  depth: number,
  side: readonly Column[],
  keys: readonly Column[],
  values: readonly Column[],
): Relation {
  const level = field(LINE.level, whole);
  const told = new Map<string, Expression>([
    ...keys.map((each, index) => [each.id, field(keyColumn(depth + index + 1), each.type)] as const),
    ...values.map((each, index) => [each.id, index < depth ? field(keyColumn(index + 1), each.type) : nothing(each.type)] as const),
    [DEPTH, wholeLiteral(depth)],
    [LINE.level, { op: 'call', name: 'subtractSmall', type: whole, of: [level, wholeLiteral(depth)] }],
  ]);
  return {
    node: 'calculate',
    input: { node: 'filter', input: landed, condition: compare('>=', level, wholeLiteral(depth)) },
    kept: [],
    fields: side.map((each) => made(`${depth} ${each.id}`, told.get(each.id) ?? field(each.id, each.type))),
  };
}

/** Whether a group is one of a place. */
function isOf(place: AcrossPlace, values: readonly Column[]): Expression {
  const own = place.flatMap(({ value }, index) => {
    const of = values[index];
    return of ? [valueIs(field(of.id, of.type), valueAcross(value, of.type))] : [];
  });
  return all(compare('=', field(DEPTH, whole), wholeLiteral(place.length)), ...own);
}

/** Null is a value like others. */
export const valueIs = (of: Expression, value: Value): Expression =>
  value === null ? isNull(of) : compare('=', of, { op: 'literal', type: of.type, value });

/** A value across, of its wire form. */
export function valueAcross(text: string | null, type: FieldType): Value {
  if (text === null) return null;
  const read = readValue(type, text);
  return read.ok ? read.value : null;
}

const made = (id: string, expression: Expression): CalculatedColumn => ({ id, name: id, type: expression.type, expression });
const nothing = (type: FieldType): Expression => ({ op: 'literal', type, value: null });
