import fc from 'fast-check';
import type { Across, FieldType, Layout, Value } from '@cendra/core';
import { compareValues, fittingLayout } from '@cendra/core';
import type { WireRow } from '../../../../packages/core/test/support/generate';
import { keyed } from '../../../../packages/core/test/support/generate';
import type { Generated } from './generated';
import { rowsOf } from './generated';
import { placeIn } from './naive-proof';
import { fields, listed, totalled } from './proof-lines';

/** Layouts of the generated rows with one column per value, and the values that stand across. */

export const stored = keyed.fields.map(({ id, name, type }) => ({ id, name, type }));

type Given = Layout & { readonly across: Across };
export const layouts: fc.Arbitrary<Given> = fc.record({
  levels: fc.uniqueArray(
    fc.record(
      { field: fc.constantFrom('t1', 'b1', 'w2'), descending: fc.boolean(), subtotal: fc.boolean(), by: totalled, listed },
      { requiredKeys: ['field', 'descending', 'subtotal'] },
    ),
    {
      maxLength: 2,
      selector: (each) => each.field,
    },
  ),
  across: fc.record(
    { field: fc.constantFrom('day1', 'd2', 't2'), descending: fc.boolean(), total: fc.boolean(), listed },
    { requiredKeys: ['field', 'descending', 'total'] },
  ),
  rows: fc.boolean(),
  grandTotal: fc.boolean(),
  totals: fc.array(totalled, { minLength: 1, maxLength: 3 }),
  marks: fc.constant([]),
});

export type Fitting = ReturnType<typeof fittingLayout> & { readonly across: Across };
export const fitted = (given: Given): Fitting => ({ ...fittingLayout(given, fields), across: given.across });

export const same = (a: Value, b: Value, by: (a: Exclude<Value, null>, b: Exclude<Value, null>) => number) =>
  a === null || b === null ? a === b : by(a, b) === 0;

export function valuesAcross(
  all: readonly Value[],
  { descending, listed: order }: Across,
  type: FieldType,
  by: (a: Exclude<Value, null>, b: Exclude<Value, null>) => number,
): readonly Value[] {
  const distinct: Value[] = [];
  for (const each of all) if (!distinct.some((known) => same(known, each, by))) distinct.push(each);
  const own = (a: Value, b: Value) => (a === null ? 1 : b === null ? -1 : descending ? by(b, a) : by(a, b));
  return distinct.sort((a, b) => placeIn(order, type, a) - placeIn(order, type, b) || own(a, b));
}

/** A layout over rows that are landed, those rows, and the values that stand across. */
export async function landedAcross(generated: Generated, given: Given, wireRows: readonly WireRow[]) {
  await generated.fill(wireRows);
  await generated.engine.run('create or replace temp view rows as select *, n as line_row from landed order by n');
  const layout = fitted(given);
  const rows = rowsOf(wireRows);
  const type = fields.find((each) => each.id === layout.across.field)?.type ?? { kind: 'text' };
  const byType = (a: Exclude<Value, null>, b: Exclude<Value, null>) => compareValues(type, a, b);
  const values = valuesAcross(
    rows.map((each) => each.get(layout.across.field) ?? null),
    layout.across,
    type,
    byType,
  );
  return { layout, rows, type, byType, values };
}
