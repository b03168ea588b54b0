import type { Expression, OrderBy, Window } from '../expressions';
import { arithmetic, closed, compare, isNull, sumType, when, wholeLiteral } from '../expressions';
import type { FieldType } from '../fields';
import { whole } from '../fields';
import type { CalculatedColumn, Column, Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';
import type { SheetField } from '../sheet';
import type { Totalled } from './columns';
import { groupColumns, keysOfLevels, LINE, totalColumn, totalType } from './columns';
import type { BesideAsked } from './besides';
import { besideColumn, besideColumns, besidesAsked, besideType, isAcross, nothing, percent } from './besides';
import { groupOrder, withFigures } from './groups';
import { averageOf } from './marks';

/**
 * Figures that stand beside a total and are told by those of the groups beside its own: within the group above, in the
 * order in which they are shown. Everything has none; what has no value has none either.
 */

/** Groups with what stands beside their totals; `rows` are those the groups are made of. */
export function withBeside(groups: Relation, layout: Totalled, fields: readonly SheetField[], rows: Relation): Relation {
  const asked = besidesAsked(layout);
  if (asked.length === 0) return groups;
  const known = columnsOf(groups);
  const at = (id: string): Expression => valueOf(known.find((each) => each.id === id) ?? { id, type: whole });
  const levels = layout.levels.map((_level, index) => index + 1);
  const windows = asked.flatMap(({ total, index, kind }) =>
    (isAcross(kind) ? [] : levels).map((level): CalculatedColumn => {
      const above = keysOfLevels(layout.levels.slice(0, level - 1), fields);
      const of = windowOf(
        { total, kind },
        closed(at(totalColumn(index))),
        level,
        above,
        at,
        orderAt(layout, fields, kind, index, level, at),
      );
      const id = `${besideColumn(index, kind)} ${level}`;
      return { id, name: id, type: of.type, expression: of };
    }),
  );
  const ordered = windows.length > 0 ? withFigures(groups, layout, fields, rows) : groups;
  const made: Relation = windows.length > 0 ? { node: 'calculate', input: ordered, fields: windows } : groups;
  const told = asked.map(({ total, index, kind }): CalculatedColumn => {
    const id = besideColumn(index, kind);
    const type = besideType(kind, totalType(fields, total));
    const own = closed(at(totalColumn(index)));
    if (isAcross(kind)) {
      const before = columnBefore(layout, index);
      const other = before === undefined ? undefined : closed(at(totalColumn(before)));
      return { id, name: id, type, expression: other ? together(kind, own, other, type) : nothing(type) };
    }
    const branches = levels.map((level) => {
      const window = windows.find((each) => each.id === `${id} ${level}`);
      return {
        when: compare('=', at(LINE.level), wholeLiteral(level)),
        then: window ? together(kind, own, valueOf(window), type) : nothing(type),
      };
    });
    const expression: Expression = branches.length > 0 ? { op: 'case', type, branches, otherwise: nothing(type) } : nothing(type);
    return { id, name: id, type, expression };
  });
  const kept = groupColumns(layout, fields);
  return {
    node: 'choose',
    input: { node: 'calculate', input: made, kept: kept.map((each) => each.id), fields: told },
    columns: [...kept, ...besideColumns(layout, fields)],
  };
}

/** The number of the same total in the column before; undefined where there is none. */
function columnBefore({ totals, places = 1, before = [] }: Totalled, index: number): number | undefined {
  const own = totals.length / places;
  const place = before[Math.floor(index / own)];
  return place === undefined ? undefined : place * own + (index % own);
}

/** In which order the groups of a level are told: ranks by the figure itself, everything else as they are shown. */
function orderAt(
  layout: Totalled,
  fields: readonly SheetField[],
  kind: BesideAsked,
  index: number,
  level: number,
  at: (id: string) => Expression,
): readonly OrderBy[] {
  if (kind === 'share' || kind === 'average of the groups') return [];
  if (kind === 'rank') return [{ of: closed(at(totalColumn(index))), descending: true, nullsFirst: false }];
  const shown = layout.levels[level - 1];
  return shown ? groupOrder(shown, level, fields) : [];
}

function windowOf(
  { total: { aggregate }, kind }: Pick<ReturnType<typeof besidesAsked>[number], 'total' | 'kind'>,
  total: Expression,
  level: number,
  keys: readonly Column[],
  at: (id: string) => Expression,
  order: readonly OrderBy[],
): Expression {
  const above = keys.map((each) => at(each.id));
  const own = [at(LINE.level), ...above];
  const window = (name: Window['name'], type: FieldType, of: readonly Expression[], partition = own): Window => ({
    op: 'window',
    type,
    name,
    of,
    partition,
    order,
    ...(name === 'lag' ? { step: 1 } : {}),
  });
  // The total of the group above stands in a line of its own, among those of what is within it.
  const theirs = when(compare('=', at(LINE.level), wholeLiteral(level - 1)), total, nothing(total.type));
  switch (kind) {
    case 'share':
      return window('max', total.type, [theirs], above);
    case 'average of the groups':
      // That of averages is the one of all their rows.
      if (aggregate === 'average') return averageOf(window('sum', sumType(total.type), [theirs], above), wholeLiteral(1));
      return averageOf(window('sum', sumType(total.type), [total]), window('count', whole, [total]));
    case 'rank':
      return window('rank', whole, []);
    case 'running total':
      // Up to the group itself: no two stand at the same place.
      return window('sum', sumType(total.type), [total]);
    case 'difference':
    case 'change':
    case 'difference across':
    case 'change across':
      return window('lag', total.type, [total]);
  }
}

/** The figure out of the group's own total and what the windows say. */
function together(kind: BesideAsked, own: Expression, other: Expression, type: FieldType): Expression {
  switch (kind) {
    case 'share':
      return percent(own, other);
    case 'change':
    case 'change across':
      return percent(arithmetic('-', own, other), other);
    case 'difference':
    case 'difference across':
      return arithmetic('-', own, other);
    case 'average of the groups':
      return other;
    case 'rank':
    case 'running total':
      return when(isNull(own), nothing(type), other);
  }
}
