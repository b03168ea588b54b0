import type { Expression } from '../expressions';
import { all, compare, either, isNull, not, wholeLiteral } from '../expressions';
import { whole } from '../fields';
import type { CalculatedColumn, Column, MeasureColumn, Relation } from '../sql';
import { columnsOf } from '../sql';
import type { SheetField } from '../sheet';
import { valueOfWire } from '../values';
import type { Across, Layout, Level, Total } from './layout';
import { withBeside } from './beside';
import { nothing } from './besides';
import { isBelow, MOST_ACROSS } from './layout';
import type { ProofRelations } from './lines';
import {
  apart,
  averages,
  cellRowsColumn,
  column,
  field,
  groupColumns,
  headColumns,
  keysOf,
  keysOfLevels,
  LINE,
  totalColumn,
  valuesColumn,
} from './columns';
import { emptyPerGroup, hasEmptyGroups, withEmptyGroups } from './empty-groups';
import { readRows } from './first-groups';
import { grouped, groupOrder, withFigures } from './groups';
import { withoutHeads } from './heads';
import { linesOf } from './lines';
import type { AcrossKey, AcrossPlace } from './places';
import { acrossPlaces, placesBefore } from './places';

type Fitting = Layout & { readonly across: Across; readonly totals: readonly Total[] };

const DEPTH = 'across_depth';
const across = (key: Column): Column => column(`across_${key.id}`, key.type);

/** The values that stand across, those of each level in its order within the ones before; one more of them than may. */
export function acrossValues(layout: Fitting, fields: readonly SheetField[], stored: readonly Column[]): Relation {
  const { levels } = layout.across;
  const rows = readRows({ levels: [], across: layout.across }, fields, stored);
  const order = levels.flatMap((level, index) => groupOrder(level, index + 1, fields));
  const own = { levels, rows: false, grandTotal: false, marks: [], totals: [] };
  const found = withEmptyGroups(grouped(own, fields, rows), own, fields, MOST_ACROSS + 1);
  const at = (level: number) => compare('=', field(LINE.level, whole), wholeLiteral(level));
  const none = compare('=', field(LINE.rows, whole), wholeLiteral(0));
  // Groups without rows have no others in them, unless the next level says so.
  const alone = levels.flatMap(({ there }, index) =>
    there && index + 1 < levels.length && !levels[index + 1]?.there ? [all(at(index + 1), none)] : [],
  );
  const last: Relation = { node: 'filter', input: found, condition: either(at(levels.length), ...alone) };
  const groups = withFigures(last, { levels }, fields, rows);
  const sorted: Relation = { node: 'limit', input: groups, count: MOST_ACROSS + 1, order };
  const told = [...keysOfLevels(levels, fields), column(LINE.level, whole)];
  return { node: 'calculate', input: sorted, kept: [], fields: told.map((key) => made(across(key).id, field(key.id, key.type))) };
}

/**
 * A result told with one column per value. Groups are made with all that stands across, with less of it, and without, so
 * that a total over columns is made of the rows and not of other figures; each group's figures are then put side by side.
 * The totals of a line are those of each place one after the other. Groups by so many of the levels across, and within
 * those by what stands down, are landed as `across_0`, `across_1` …, by their number.
 */
export function crosstabRelations(
  layout: Fitting,
  fields: readonly SheetField[],
  stored: readonly Column[],
  found: readonly AcrossPlace[],
): ProofRelations {
  const { across: beside, levels, totals } = layout;
  const { across: _across, ...plain } = layout;
  const rows = readRows(layout, fields, stored);
  const places = acrossPlaces(beside, found);
  // Those over everything also say how many rows a line is of.
  const depths = [0, ...beside.levels.map((_level, index) => index + 1)].filter(
    (depth) => depth === 0 || places.some((each) => each.length === depth),
  );
  const keys = keysOfLevels(levels, fields);
  const told = groupColumns(plain, fields).filter(({ id }) => id.startsWith('total_') || id.startsWith('values_'));
  const values = beside.levels.map((level, index) => apart(level, keysOf(level, index + 1, fields)).map(across));
  const heads = headColumns(levels, fields);
  const side = [...keys, column(LINE.level, whole), column(LINE.rows, whole), column(DEPTH, whole), ...values.flat(), ...told, ...heads];
  const parts = depths.map((depth) => {
    const both = { ...plain, levels: depth === 0 ? levels : withoutHeads([...beside.levels.slice(0, depth), ...levels]) };
    const handle = `across_${depth}`;
    const landed: Relation = { node: 'landed', handle, columns: groupColumns(both, fields) };
    return { handle, groups: grouped(both, fields, rows), beside: besideOthers(landed, depth, side, both.levels, fields) };
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
    measures: [
      taken(LINE.rows, column(LINE.rows, whole), isOf([], values)),
      ...heads.map((each) => taken(each.id, each, isOf([], values))),
      ...measures,
    ],
  };
  const wide = {
    ...plain,
    rows: false,
    totals: places.flatMap(() => totals),
    places: places.length,
    ...(isBelow(layout) ? { below: totals.length } : {}),
    before: placesBefore(places),
  };
  const columns = groupColumns(wide, fields);
  const filled: Relation = { node: 'choose', input: group, columns };
  const empty = hasEmptyGroups(wide);
  const groups = empty ? withEmptyGroups({ node: 'landed', handle: 'found', columns }, wide, fields) : filled;
  return {
    ...linesOf(wide, fields, stored, withBeside(groups, wide, fields, rows)),
    landed: [
      ...parts.map(({ handle, groups: of }) => ({ handle, groups: of })),
      ...(empty ? [{ handle: 'found', groups: filled, emptyPerGroup: emptyPerGroup(wide) }] : []),
    ],
  };
}

/** Groups by so many levels across, then by those down, as columns all of them share: the levels across are none of the line. */
function besideOthers(
  landed: Relation,
  depth: number,
  side: readonly Column[],
  levels: readonly Level[],
  fields: readonly SheetField[],
): Relation {
  const level = field(LINE.level, whole);
  const told = new Map<string, Expression>([
    ...levels.flatMap((each, index) => {
      const own = keysOf(each, index + 1, fields);
      const named = index < depth ? own.map(across) : keysOf(each, index + 1 - depth, fields);
      return own.flatMap((key, at) => (named[at] ? [[named[at].id, field(key.id, key.type)] as const] : []));
    }),
    [DEPTH, wholeLiteral(depth)],
    [LINE.level, { op: 'call', name: 'subtractSmall', type: whole, of: [level, wholeLiteral(depth)] }],
  ]);
  const known = new Set([LINE.rows, ...columnsOf(landed).map((each) => each.id)].filter((id) => !/^(key|rest|shown)_/.test(id)));
  const of = ({ id, type }: Column) => told.get(id) ?? (known.has(id) ? field(id, type) : nothing(type));
  return {
    node: 'calculate',
    input: { node: 'filter', input: landed, condition: compare('>=', level, wholeLiteral(depth)) },
    kept: [],
    fields: side.map((each) => made(`${depth} ${each.id}`, of(each))),
  };
}

/** Whether a group is one of a place. */
function isOf(place: AcrossPlace, values: readonly (readonly Column[])[]): Expression {
  const own = place.flatMap((key, index) =>
    isKey(
      key,
      (values[index] ?? []).map((each) => field(each.id, each.type)),
    ),
  );
  return all(compare('=', field(DEPTH, whole), wholeLiteral(place.length)), ...own);
}

/** Whether what groups are told by, a value and where there is one the rest, is that of one across. Null is a value like others. */
export function isKey(key: AcrossKey, [of, rest]: readonly Expression[]): readonly Expression[] {
  if (!of) return [];
  if (key.rest && rest) return [rest];
  const value = valueOfWire(of.type, key.value);
  const own = value === null ? isNull(of) : compare('=', of, { op: 'literal', type: of.type, value });
  return rest ? [not(rest), own] : [own];
}

const made = (id: string, expression: Expression): CalculatedColumn => ({ id, name: id, type: expression.type, expression });
