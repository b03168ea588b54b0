import { all, compare, wholeLiteral } from '../expressions';
import { whole } from '../fields';
import type { Problem } from '../problem';
import { warning } from '../problem';
import type { SheetField } from '../sheet';
import type { Column, Relation } from '../sql';
import { calculatedColumn } from '../sql';
import { landedRows } from './groups';
import type { Layout, Level } from './layout';
import type { Look } from './look';
import { column, COUNT, field, FIRST, nothing, SECOND } from './look';

/** Levels that stand the other way round than their fields lie in one another: every district lies in one region, and stands above it. */
export const nestedOff = (layout: Layout, fields: readonly SheetField[], stored: readonly Column[]): readonly Look[] =>
  [layout.levels, layout.across?.levels ?? []].flatMap((side) =>
    side.flatMap((level, index) => {
      const next = side[index + 1];
      const [inner, outer] = [level, next].map((each) => (each && nests(each) ? fields.find(({ id }) => id === each.field) : undefined));
      return inner && outer ? [nestedIn(inner, outer, stored)] : [];
    }),
  );

/** Stretches of days lie in one another by the calendar, and the rest together lies in nothing. */
const nests = ({ stretch, first }: Level) => stretch === undefined && first === undefined;

/** Null is a value like others: one with and without it is in two. */
function nestedIn(inner: SheetField, outer: SheetField, stored: readonly Column[]): Look {
  const pairs: Relation = {
    node: 'group',
    input: landedRows(stored),
    keys: [calculatedColumn('inner', field(inner.id, inner.type)), calculatedColumn('outer', field(outer.id, outer.type))],
    counts: [],
  };
  const each: Relation = {
    node: 'group',
    input: pairs,
    keys: [calculatedColumn('inner', field('inner', inner.type))],
    counts: [{ id: 'places' }],
    measures: [{ ...column('place', outer.type), aggregate: 'least', of: field('outer', outer.type) }],
  };
  const together: Relation = {
    node: 'group',
    input: each,
    keys: [],
    counts: [{ id: COUNT }, { id: 'spread', when: compare('>', field('places', whole), wholeLiteral(1)) }],
    measures: [{ ...column('outers', whole), aggregate: 'distinct count', of: field('place', outer.type) }],
  };
  const count = (id: string) => field(id, whole);
  const nested = all(
    compare('=', count('spread'), wholeLiteral(0)),
    compare('>', count('outers'), wholeLiteral(1)),
    compare('>', count(COUNT), count('outers')),
  );
  return {
    rows: {
      node: 'calculate',
      input: { node: 'filter', input: together, condition: nested },
      kept: [COUNT],
      fields: [calculatedColumn(FIRST, nothing), calculatedColumn(SECOND, nothing)],
    },
    says: () => standsAbove(inner, outer),
  };
}

function standsAbove(inner: SheetField, outer: SheetField): Problem {
  const found = warning(
    'levels-nested',
    `Each ${inner.name} has one ${outer.name} and stands above it, so that every group of ${inner.name} has a single one of ${outer.name} in it.`,
    { field: inner.id },
    `${outer.name} above ${inner.name}`,
  );
  return { ...found, severity: 'hint' };
}
