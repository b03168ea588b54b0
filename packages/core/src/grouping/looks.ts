import { all, cast, compare, isNull, not, wholeLiteral } from '../expressions';
import { text, whole } from '../fields';
import { overlooking } from '../joins';
import type { Problem } from '../problem';
import { warning } from '../problem';
import type { SheetField } from '../sheet';
import { aggregateType } from '../sheet';
import type { Column, Relation } from '../sql';
import { calculatedColumn } from '../sql';
import { chartReading } from './chart';
import type { fittingLayout } from './check';
import type { Layout } from './layout';
import { allLevels } from './layout';
import { keyColumn, LINE, totalColumn, totalType } from './columns';
import { linesTwice, sharesOff } from './line-looks';
import type { Look, LookRow } from './look';
import { column, COUNT, field, FIRST, nothing, SECOND, WHICH } from './look';
import { readRows } from './first-groups';
import { grouped, landedRows } from './groups';
import { headsOff } from './heads-look';
import { namesOff } from './names-look';
import { nestedOff } from './nested-look';
import { notSummed } from './sums-look';

/** A layout as `fittingLayout` gives it. */
type Fitting = ReturnType<typeof fittingLayout>;

/** Fewer groups than these may well have the same figure. */
const GROUPS_ENOUGH = 3;
/** So many groups that are written differently are counted at most. */
export const ALIKE_MOST = 20;

export interface Looks {
  /** One statement over the rows, landed as `rows`: which look, a number, two texts. Left out where nothing is looked at. */
  readonly relation?: Relation;
  readonly looks: readonly Look[];
}

/** What a proof looks at in the rows of its result. */
export function proofLooks(layout: Fitting, fields: readonly SheetField[], stored: readonly Column[]): Looks {
  const shown = fields.filter((each) => !each.forUseOnly && stored.some(({ id }) => id === each.id));
  const looks = [
    ...writtenDifferently(layout, shown, stored),
    ...namesOff(layout, shown, stored),
    ...headsOff(layout, fields, stored),
    ...nestedOff(layout, shown, stored),
    ...sameEverywhere(layout, shown, stored),
    ...(layout.rows ? [rowsAlike(shown, stored)] : []),
    ...notSummed(layout, fields, stored),
    ...notDrawn(layout, shown, stored),
    ...sharesOff(shown, stored),
    ...linesTwice(shown, stored),
  ];
  if (looks.length === 0) return { looks };
  const inputs = looks.map(({ rows }, index) => numbered(rows, index));
  const columns = [column(WHICH, whole), column(COUNT, whole), column(FIRST, text), column(SECOND, text)];
  return { looks, relation: inputs.length === 1 && inputs[0] ? inputs[0] : { node: 'union', inputs, columns } };
}

/** What was found, from the rows of the statement and the values that stand across. */
export function proofFindings(
  layout: Fitting,
  fields: readonly SheetField[],
  { looks }: Looks,
  rows: readonly (readonly (string | null)[])[],
  across: number | undefined,
): readonly Problem[] {
  const found = looks.flatMap(({ says }, index) => {
    const own = rows.flatMap(([which, count, first, second]) =>
      which === String(index) ? [{ count: count ?? '0', first: first ?? null, second: second ?? null }] : [],
    );
    return own.length > 0 ? [says(own)] : [];
  });
  return [...found, ...(across === 1 ? oneColumn(layout, fields) : [])];
}

function numbered(input: Relation, index: number): Relation {
  const fields = [
    calculatedColumn(`${WHICH}_own`, wholeLiteral(index)),
    calculatedColumn(`${COUNT}_own`, field(COUNT, whole)),
    calculatedColumn(`${FIRST}_own`, field(FIRST, text)),
    calculatedColumn(`${SECOND}_own`, field(SECOND, text)),
  ];
  return { node: 'calculate', input, kept: [], fields };
}

const nameOf = (fields: readonly SheetField[], id: string): string => fields.find((each) => each.id === id)?.name ?? 'a field';

/** Groups whose values are the same but for case or blanks around them. */
function writtenDifferently(layout: Layout, fields: readonly SheetField[], stored: readonly Column[]): readonly Look[] {
  return allLevels(layout).flatMap(({ field: id }) => {
    const told = fields.find((each) => each.id === id);
    if (told?.type.kind !== 'text') return [];
    const own = field(id, text);
    const values: Relation = {
      node: 'group',
      input: { node: 'filter', input: landedRows(stored), condition: not(isNull(own)) },
      keys: [calculatedColumn('written', own)],
      counts: [],
    };
    const written = field('written', text);
    const alike: Relation = {
      node: 'group',
      input: values,
      keys: [calculatedColumn('alike', overlooking(written, ['blanks', 'case']))],
      counts: [{ id: COUNT }],
      measures: [
        { ...column(FIRST, text), aggregate: 'least', of: written },
        { ...column(SECOND, text), aggregate: 'greatest', of: written },
      ],
    };
    const several: Relation = { node: 'filter', input: alike, condition: compare('>', field(COUNT, whole), wholeLiteral(1)) };
    const order = [{ of: field('alike', text), descending: false, nullsFirst: false }];
    return [{ rows: { node: 'limit', input: several, count: ALIKE_MOST, order }, says: (rows) => alikeGroups(told, rows) } satisfies Look];
  });
}

function alikeGroups({ id, name }: SheetField, rows: readonly LookRow[]): Problem {
  const [example] = rows;
  const sets = rows.length === ALIKE_MOST ? `${ALIKE_MOST} or more values` : rows.length === 1 ? 'One value' : `${rows.length} values`;
  const stands = rows.length === 1 ? 'stands' : 'stand';
  return warning(
    'groups-alike',
    `${sets} of ${name} ${stands} in several groups that differ only by case or blanks: “${example?.first ?? ''}” and “${example?.second ?? ''}”.`,
    { field: id },
    'one way to write each',
  );
}

/** A figure that is the same in each of several groups was not told apart by them. */
function sameEverywhere(layout: Fitting, fields: readonly SheetField[], stored: readonly Column[]): readonly Look[] {
  const last = layout.levels.length;
  if (last === 0) return [];
  const { across: _across, ...down } = layout;
  const groups: Relation = {
    node: 'filter',
    input: grouped(down, fields, readRows(down, fields, stored)),
    condition: compare('=', field(LINE.level, whole), wholeLiteral(last)),
  };
  return layout.totals.map((total, index) => {
    const type = totalType(fields, total);
    const of = field(totalColumn(index), type);
    const over: Relation = {
      node: 'group',
      input: groups,
      keys: [],
      counts: [{ id: COUNT }],
      measures: [
        { ...column('least', type), aggregate: 'least', of },
        { ...column('greatest', type), aggregate: 'greatest', of },
        { ...column('told', whole), aggregate: 'count', of },
      ],
    };
    const same = all(
      compare('>=', field(COUNT, whole), wholeLiteral(GROUPS_ENOUGH)),
      compare('=', field('told', whole), field(COUNT, whole)),
      compare('=', field('least', type), field('greatest', type)),
    );
    const rows: Relation = {
      node: 'calculate',
      input: { node: 'filter', input: over, condition: same },
      kept: [COUNT],
      fields: [calculatedColumn(FIRST, cast(field('least', type), text)), calculatedColumn(SECOND, nothing)],
    };
    const says = ([found]: readonly LookRow[]) =>
      warning(
        'figure-same',
        `The ${total.aggregate} of ${nameOf(fields, total.field)} is ${found?.first ?? ''} in each of ${found?.count ?? ''} groups.`,
        { field: total.field },
        'a figure that the groups tell apart',
      );
    return { rows, says };
  });
}

/** Rows that are equal in everything a reader sees. */
function rowsAlike(fields: readonly SheetField[], stored: readonly Column[]): Look {
  const each: Relation = {
    node: 'group',
    input: landedRows(stored),
    keys: fields.map(({ id, type }, index) => ({ ...column(keyColumn(index), type), expression: field(id, type) })),
    counts: [{ id: LINE.rows }],
  };
  const several: Relation = { node: 'filter', input: each, condition: compare('>', field(LINE.rows, whole), wholeLiteral(1)) };
  const summed = aggregateType('sum', whole);
  const together: Relation = {
    node: 'group',
    input: several,
    keys: [],
    counts: [{ id: 'sets' }],
    measures: [{ ...column('alike', summed), aggregate: 'sum', of: field(LINE.rows, whole) }],
  };
  const rows: Relation = {
    node: 'calculate',
    input: { node: 'filter', input: together, condition: compare('>', field('sets', whole), wholeLiteral(0)) },
    kept: [],
    fields: [
      calculatedColumn(COUNT, cast(field('alike', summed), whole)),
      calculatedColumn(FIRST, nothing),
      calculatedColumn(SECOND, nothing),
    ],
  };
  const says = ([found]: readonly LookRow[]) =>
    warning(
      'rows-alike',
      `${found?.count ?? ''} rows have another that is the same in every field shown.`,
      {},
      'a field that tells them apart, or each of them once',
    );
  return { rows, says };
}

/** Groups without the figure that is drawn leave a gap nobody sees between bars. */
function notDrawn(layout: Fitting, fields: readonly SheetField[], stored: readonly Column[]): readonly Look[] {
  const reading = chartReading(layout, fields);
  const [total] = reading?.layout.totals ?? [];
  if (!reading || !total) return [];
  const { across: _across, ...down } = reading.layout;
  const missing = all(
    compare('=', field(LINE.level, whole), wholeLiteral(down.levels.length)),
    isNull(field(totalColumn(0), totalType(fields, total))),
  );
  const none: Relation = {
    node: 'group',
    input: { node: 'filter', input: grouped(down, fields, readRows(down, fields, stored)), condition: missing },
    keys: [],
    counts: [{ id: COUNT }],
  };
  const rows: Relation = {
    node: 'calculate',
    input: { node: 'filter', input: none, condition: compare('>', field(COUNT, whole), wholeLiteral(0)) },
    kept: [COUNT],
    fields: [calculatedColumn(FIRST, nothing), calculatedColumn(SECOND, nothing)],
  };
  const says = ([found]: readonly LookRow[]) => {
    const groups = found?.count === '1' ? 'One group has' : `${found?.count ?? ''} groups have`;
    return warning(
      'chart-without-figure',
      `${groups} no ${total.aggregate} of ${nameOf(fields, total.field)}, so the chart draws nothing there.`,
      { field: total.field },
      'a figure in every group, or a word about the gaps',
    );
  };
  return [{ rows, says }];
}

function oneColumn({ across }: Layout, fields: readonly SheetField[]): readonly Problem[] {
  const [first] = across?.levels ?? [];
  if (!first) return [];
  const found = warning(
    'across-one',
    `One column per value of ${nameOf(fields, first.field)} is a single column.`,
    { field: first.field },
    'several values, or it down',
  );
  return [{ ...found, severity: 'hint' }];
}
