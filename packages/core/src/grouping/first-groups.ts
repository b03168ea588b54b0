import type { Window } from '../expressions';
import { all, compare, wholeLiteral } from '../expressions';
import { whole, yesno } from '../fields';
import type { SheetField } from '../sheet';
import type { CalculatedColumn, Relation } from '../sql';
import { alike, column, field, figureColumn, keysOfLevels, keysOfRow, restOf, shownOf, totalColumn, totalType, typeOf } from './columns';
import type { StoredOrMade } from './groups';
import { groupOrder, groupsOf, landedRows } from './groups';
import type { Layout, Level } from './layout';

/** The rows of a result with what their groups are shown by, and of each level that shows its first groups only, whether a row is in one of the others. */
export function readRows(
  { levels, across }: Pick<Layout, 'levels' | 'across'>,
  fields: readonly SheetField[],
  stored: readonly StoredOrMade[],
): Relation {
  return [levels, across?.levels ?? []].reduce(
    (rows: Relation, side) =>
      side.reduce(
        (input, { first }, index) => (first === undefined ? input : withRest(input, side.slice(0, index + 1), first, fields)),
        rows,
      ),
    withShown(landedRows(stored), [...levels, ...(across?.levels ?? [])], fields),
  );
}

/** What a value is shown by is the same wherever it stands: where there are several, the least of them. */
function withShown(rows: Relation, levels: readonly Level[], fields: readonly SheetField[]): Relation {
  const shown = levels.filter((each) => each.shown !== undefined);
  const made = new Map(
    shown.map((level): readonly [string, CalculatedColumn] => {
      const of = field(level.shown ?? '', typeOf(fields, level.shown ?? ''));
      const partition = [field(level.field, typeOf(fields, level.field))];
      const least: Window = { op: 'window', type: of.type, name: 'min', of: [of], partition, order: [] };
      return [shownOf(level), { ...column(shownOf(level), of.type), expression: least }];
    }),
  );
  return made.size === 0 ? rows : { node: 'calculate', input: rows, fields: [...made.values()] };
}

/** Groups are told apart within those above, in their order; whatever stands behind the first ones is the rest. */
function withRest(rows: Relation, levels: readonly Level[], first: number, fields: readonly SheetField[]): Relation {
  const number = levels.length;
  const [last] = levels.slice(-1);
  if (!last) return rows;
  const { first: _first, ...every } = last;
  const above = levels.slice(0, -1);
  const apart = [...above, every];
  const groups = groupsOf(apart, last.by ? [last.by] : [], fields, rows);
  const figure = last.by && totalType(fields, last.by);
  const figures: readonly CalculatedColumn[] = figure
    ? [{ ...column(figureColumn(number), figure), expression: field(totalColumn(0), figure) }]
    : [];
  const place: Window = {
    op: 'window',
    type: whole,
    name: 'rowNumber',
    of: [],
    partition: keysOfLevels(above, fields).map(({ id, type }) => field(id, type)),
    order: groupOrder(every, number, fields),
  };
  const own = (id: string) => `${PLACE} ${id}`;
  const keys = keysOfLevels(apart, fields);
  const ranked: Relation = {
    node: 'calculate',
    input: { node: 'calculate', input: groups, fields: figures },
    fields: [{ ...column(PLACE, whole), expression: place }],
  };
  const rests: Relation = {
    node: 'calculate',
    input: ranked,
    kept: [],
    fields: [
      ...keys.map((each) => ({ ...column(own(each.id), each.type), expression: field(each.id, each.type) })),
      { ...column(restOf(last.field), yesno), expression: compare('>', field(PLACE, whole), wholeLiteral(first)) },
    ],
  };
  const on = apart.flatMap((level, index) =>
    keysOfRow(level, index + 1, fields).flatMap(({ id, type, expression }) => alike(expression, field(own(id), type))),
  );
  return { node: 'join', left: rows, right: rests, on: all(...on), keeps: 'left' };
}

const PLACE = 'place of a group';
