import fc from 'fast-check';
import type { Across, AcrossKey, AcrossPlace, CrosstabRelations, Layout, Relation, SheetField, Value } from '@cendra/core';
import { compile, duckdb, fittingLayout, sameKey, writeValue } from '@cendra/core';
import type { WireRow } from '../../../../packages/core/test/support/generate';
import { keyed } from '../../../../packages/core/test/support/generate';
import type { Generated } from './generated';
import { rowsOf } from './generated';
import { naiveLines, REST } from './naive-proof';
import { fields, listed, totalled } from './proof-lines';

/** Layouts of the generated rows with columns per value, and the values that stand across. */

export const stored = keyed.fields.map(({ id, name, type }) => ({ id, name, type }));

const levelsOf = <F extends string>(of: readonly F[], least: number) =>
  fc.uniqueArray(
    fc.record(
      {
        field: fc.constantFrom(...of),
        descending: fc.boolean(),
        subtotal: fc.boolean(),
        by: totalled,
        listed,
        totalsFirst: fc.constant(true as const),
        ofSeveral: fc.constant(true as const),
        first: fc.integer({ min: 1, max: 3 }),
      },
      { requiredKeys: ['field', 'descending', 'subtotal'] },
    ),
    { minLength: least, maxLength: 2, size: 'max', selector: (each) => each.field },
  );

type Given = Layout & { readonly across: Across };
export const layouts: fc.Arbitrary<Given> = fc.record({
  levels: levelsOf(['t1', 'b1', 'w2'], 0),
  across: fc.record(
    { levels: levelsOf(['day1', 'd2', 't2'], 1), total: fc.boolean(), totalsFirst: fc.constant(true as const) },
    { requiredKeys: ['levels', 'total'] },
  ),
  rows: fc.boolean(),
  grandTotal: fc.boolean(),
  totals: fc.array(totalled, { minLength: 1, maxLength: 3 }),
  marks: fc.constant([]),
});

export type Fitting = ReturnType<typeof fittingLayout> & { readonly across: Across };
export const fitted = (given: Given): Fitting => ({ ...fittingLayout(given, fields), across: given.across });

export type Row = ReadonlyMap<string, Value>;

/** The columns of a layout in their order, read off its rows as the lines of a proof that has its levels down. */
export function placesAcross({ across }: Fitting, rows: readonly Row[]): readonly AcrossPlace[] {
  const { levels, total, totalsFirst } = across;
  const [counted] = fields;
  const asLines = {
    levels,
    rows: false,
    grandTotal: total || rows.length === 0,
    ...(totalsFirst ? { grandTotalFirst: totalsFirst } : {}),
    totals: [{ field: counted?.id ?? '', aggregate: 'count' as const }],
    marks: [],
  };
  return naiveLines(asLines, fields, rows)
    .filter((each) => each.kind === 'totals')
    .map(({ keys, level }) =>
      keys
        .slice(0, level ?? 0)
        .map((value, at): AcrossKey => (levels[at]?.first !== undefined && value === REST ? { value: null, rest: true } : { value })),
    );
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

/** A layout over rows that are landed, those rows, its columns, and what was found across. */
export async function landedAcross(generated: Generated, given: Given, wireRows: readonly WireRow[]) {
  await generated.fill(wireRows);
  await generated.engine.run('create or replace temp view rows as select *, n as line_row from landed order by n');
  const layout = fitted(given);
  const rows = rowsOf(wireRows);
  const places = placesAcross(layout, rows);
  return { layout, rows, places, found: places.filter((each) => each.length === layout.across.levels.length) };
}

const UNBOUND = { bound: new Map(), now: 0n };

/** Keeps what a relation gives as a table of the engine. */
export async function kept(generated: Generated, name: string, relation: Relation): Promise<void> {
  const { text, values, columns } = compile(relation, duckdb, UNBOUND);
  const names = columns.map(({ id }) => `"${id}"`).join(', ');
  const bound = values.map((each) => each.value as string);
  await generated.engine.run(`create or replace temp table "${name}" as select * from (${text}) as t (${names})`, bound);
}

/** What a relation gives, in wire form. */
export async function given(generated: Generated, relation: Relation): Promise<readonly (readonly (string | null)[])[]> {
  const { text, values } = compile(relation, duckdb, UNBOUND);
  const bound = values.map((each) => each.value as string);
  return (await generated.engine.runAndReadAll(`select columns(*)::varchar from (${text})`, bound)).getRowsJson() as (string | null)[][];
}

/** The statements of a crosstab as the server runs them, but the last, which gives the lines. */
export async function groupsKept(generated: Generated, made: CrosstabRelations): Promise<void> {
  for (const { handle, groups } of made.across) await kept(generated, handle, groups);
  await kept(generated, 'groups', made.groups);
}
