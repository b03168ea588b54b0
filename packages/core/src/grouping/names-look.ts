import { all, cast, compare, concat, isNull, not, textLiteral, wholeLiteral } from '../expressions';
import { text, whole } from '../fields';
import type { Problem } from '../problem';
import { warning } from '../problem';
import type { SheetField } from '../sheet';
import type { Column, Relation } from '../sql';
import { calculatedColumn } from '../sql';
import { landedRows } from './groups';
import type { Layout, Level } from './layout';
import { allLevels } from './layout';
import type { Look, LookRow } from './look';
import { column, COUNT, field, FIRST, SECOND } from './look';

/** Groups that are shown by another field than the one they are told apart by: a reader takes what has one name for one. */

/** Each name that several groups of a level have, and each group that has several names. */
export function namesOff(layout: Layout, fields: readonly SheetField[], stored: readonly Column[]): readonly Look[] {
  return allLevels(layout).flatMap((level) => {
    const of = fields.find((each) => each.id === level.field);
    const by = fields.find((each) => each.id === level.shown);
    if (!of || !by) return [];
    return [
      { rows: severalOf(of, by, stored), says: (rows) => nameOfSeveral(level, of, by, rows) } satisfies Look,
      { rows: severalOf(by, of, stored), says: (rows) => severalNames(level, of, by, rows) } satisfies Look,
    ];
  });
}

/** The values of `within` that have several of `of`: how many such values there are, and the first with two of its own. */
function severalOf(of: SheetField, within: SheetField, stored: readonly Column[]): Relation {
  const [own, other] = [field(of.id, of.type), field(within.id, within.type)];
  const pairs: Relation = {
    node: 'group',
    input: { node: 'filter', input: landedRows(stored), condition: all(not(isNull(own)), not(isNull(other))) },
    keys: [calculatedColumn('of', own), calculatedColumn('within', other)],
    counts: [],
  };
  const each: Relation = {
    node: 'group',
    input: pairs,
    keys: [calculatedColumn('within', field('within', within.type))],
    counts: [{ id: 'several' }],
    measures: [
      { ...column('least', of.type), aggregate: 'least', of: field('of', of.type) },
      { ...column('greatest', of.type), aggregate: 'greatest', of: field('of', of.type) },
    ],
  };
  const several: Relation = { node: 'filter', input: each, condition: compare('>', field('several', whole), wholeLiteral(1)) };
  const counted = { ...calculatedColumn(COUNT, { op: 'window', type: whole, name: 'countRows', of: [], partition: [], order: [] }) };
  const order = [{ of: field('within', within.type), descending: false, nullsFirst: false }];
  return {
    node: 'calculate',
    input: { node: 'limit', input: { node: 'calculate', input: several, fields: [counted] }, count: 1, order },
    kept: [COUNT],
    fields: [
      calculatedColumn(FIRST, cast(field('within', within.type), text)),
      calculatedColumn(SECOND, concat(cast(field('least', of.type), text), textLiteral('” and “'), cast(field('greatest', of.type), text))),
    ],
  };
}

function nameOfSeveral({ field: id }: Level, of: SheetField, by: SheetField, [found]: readonly LookRow[]): Problem {
  const more = Number(found?.count ?? 1) - 1;
  return warning(
    'group-names-alike',
    `Groups of ${of.name} are shown by one name: “${found?.first ?? ''}” is the ${by.name} of “${found?.second ?? ''}”${more > 0 ? `, and ${more} more ${more === 1 ? 'name stands' : 'names stand'} for several` : ''}.`,
    { field: id },
    'a name of its own for each group, or groups shown by what tells them apart',
  );
}

function severalNames({ shown }: Level, of: SheetField, by: SheetField, [found]: readonly LookRow[]): Problem {
  const more = Number(found?.count ?? 1) - 1;
  return warning(
    'group-names-several',
    `The group “${found?.first ?? ''}” of ${of.name} has several values of ${by.name}, of which the least is shown: “${found?.second ?? ''}”${more > 0 ? `; ${more} more ${more === 1 ? 'group has' : 'groups have'} several` : ''}.`,
    shown === undefined ? {} : { field: shown },
    'one value for each group',
  );
}
