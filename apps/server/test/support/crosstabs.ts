import fc from 'fast-check';
import type { Across, AcrossKey, AcrossPlace, Layout, SheetField, Value } from '@cendra/core';
import { COMMON_CALENDAR, fittingLayout, sameKey, withAlso, writeValue } from '@cendra/core';
import type { WireRow } from '../../../../packages/core/test/support/wire-rows';
import { keyed } from '../../../../packages/core/test/support/wire-rows';
import { rowsKept } from './engine-relations';
import type { Generated } from './generated';
import { rowsOf } from './generated';
import { naiveLines, REST } from './naive-proof';
import { fields, heads, listed, offered, shown, totalled } from './proof-lines';

/** Layouts of the generated rows with columns per value, and the values that stand across. */

export const stored = keyed.fields.map(({ id, name, type }) => ({ id, name, type }));

const levelsOf = <F extends string>(of: readonly F[], least: number) =>
  fc.uniqueArray(
    fc.record(
      {
        field: fc.constantFrom(...of),
        shown,
        heads,
        descending: fc.boolean(),
        subtotal: fc.boolean(),
        by: totalled,
        listed,
        totalsFirst: fc.constant(true as const),
        ofSeveral: fc.constant(true as const),
        first: fc.integer({ min: 1, max: 3 }),
        also: fc.constant({ of: 'choices', parameter: 'offered' } as const),
      },
      { requiredKeys: ['field', 'descending', 'subtotal'] },
    ),
    { minLength: least, maxLength: 2, size: 'max', selector: (each) => each.field },
  );

type Given = Layout & { readonly across: Across };
export const layouts: fc.Arbitrary<Given> = fc.record({
  levels: levelsOf(['t1', 'b1', 'w2'], 0),
  across: fc.record(
    {
      levels: levelsOf(['day1', 'd2', 't2'], 1),
      total: fc.boolean(),
      totalsFirst: fc.constant(true as const),
      below: fc.constant(true as const),
    },
    { requiredKeys: ['levels', 'total'] },
  ),
  rows: fc.boolean(),
  grandTotal: fc.boolean(),
  totals: fc.array(totalled, { minLength: 1, maxLength: 3 }),
  marks: fc.constant([]),
});

export type Fitting = ReturnType<typeof fittingLayout> & { readonly across: Across };
export const fitted = (given: Given): Fitting => {
  const layout = fittingLayout(given, fields, [offered]);
  const known = {
    parameters: [offered],
    values: {},
    calendar: COMMON_CALENDAR,
    spans: new Map(),
    found: () => [],
    columnAt: () => undefined,
  };
  const read = withAlso({ layout, fields, made: [] }, known).layout;
  if (!read.across) throw new Error('something stands across');
  return { ...read, across: read.across };
};

export type Row = ReadonlyMap<string, Value>;

/** The columns of a layout in their order, read off its rows as the lines of a proof that has its levels down. */
function placesAcross({ levels, total, totalsFirst }: Across, rows: readonly Row[]): readonly AcrossPlace[] {
  const [counted] = fields;
  const asLines = {
    levels,
    rows: false,
    grandTotal: total,
    ...(totalsFirst ? { grandTotalFirst: totalsFirst } : {}),
    totals: [{ field: counted?.id ?? '', aggregate: 'count' as const }],
    marks: [],
  };
  const places = naiveLines(asLines, fields, rows)
    .filter((each) => each.kind === 'totals')
    .map(({ keys, level, shown: names }) =>
      keys.slice(0, level ?? 0).map((value, at): AcrossKey => {
        if (levels[at]?.first !== undefined && value === REST) return { value: null, rest: true };
        return levels[at]?.shown === undefined ? { value } : { value, shown: names[at] ?? null };
      }),
    );
  return places;
}

/** Whether a row is one of a column. What is none of the others beside it is one of the rest. */
export function isIn(row: Row, place: AcrossPlace, { across }: Fitting, places: readonly AcrossPlace[]): boolean {
  return place.every(({ value, rest }, index) => {
    const of = fields.find((each) => each.id === across.levels[index]?.field);
    if (!of) return false;
    const own = wire(of, row.get(of.id) ?? null);
    const others = places.filter(
      (each) => each.length > index && each.slice(0, index).every((key, at) => sameKey(key, place[at])) && !each[index]?.rest,
    );
    return rest ? !others.some((each) => each[index]?.value === own) : own === value;
  });
}

const wire = ({ type }: SheetField, value: Value) => (value === null ? null : writeValue(type, value));

/** Whether a column is one of those over which another is. */
const isWithin = (place: AcrossPlace, over: AcrossPlace) => place.length > over.length && over.every((key, at) => sameKey(key, place[at]));

/** A layout over rows that are landed, those rows, its columns, and what was found across. */
export async function landedAcross(generated: Generated, given: Given, wireRows: readonly WireRow[]) {
  await generated.fill(wireRows);
  await rowsKept(generated);
  const layout = fitted(given);
  const rows = rowsOf(wireRows);
  const { across } = layout;
  const all = placesAcross(
    { levels: across.levels.map(({ totalsFirst: _first, ofSeveral: _several, ...each }) => ({ ...each, subtotal: true })), total: false },
    rows,
  );
  const found = all.filter((place, at) => !all.some((each, other) => other < at && isWithin(each, place)));
  const places = placesAcross(across, rows);
  return { layout, rows, places: places.length > 0 || found.length > 0 ? places : [[]], found };
}
