import fc from 'fast-check';
import type { Across, Layout, Value } from '@cendra/core';
import { fittingLayout } from '@cendra/core';
import { keyed } from '../../../../packages/core/test/support/generate';
import { fields, totalled } from './proof-lines';

/** Layouts of the generated rows with one column per value, and the values that stand across. */

export const stored = keyed.fields.map(({ id, name, type }) => ({ id, name, type }));

type Given = Layout & { readonly across: Across };
export const layouts: fc.Arbitrary<Given> = fc.record({
  levels: fc.uniqueArray(
    fc.record(
      { field: fc.constantFrom('t1', 'b1', 'w2'), descending: fc.boolean(), subtotal: fc.boolean(), by: totalled },
      { requiredKeys: ['field', 'descending', 'subtotal'] },
    ),
    {
      maxLength: 2,
      selector: (each) => each.field,
    },
  ),
  across: fc.record({ field: fc.constantFrom('day1', 'd2', 't2'), descending: fc.boolean(), total: fc.boolean() }),
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
  { descending }: Across,
  by: (a: Exclude<Value, null>, b: Exclude<Value, null>) => number,
): readonly Value[] {
  const distinct: Value[] = [];
  for (const each of all) if (!distinct.some((known) => same(known, each, by))) distinct.push(each);
  return distinct.sort((a, b) => (a === null ? 1 : b === null ? -1 : descending ? by(b, a) : by(a, b)));
}
