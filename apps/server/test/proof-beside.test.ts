import fc from 'fast-check';
import type { Beside, Decimal, FieldType, Mark, Total } from '@cendra/core';
import {
  addDecimals,
  besideColumn,
  compareDecimals,
  divideDecimals,
  multiplyDecimals,
  negateDecimal,
  ofWhole,
  parseDecimal,
  rescale,
} from '@cendra/core';
import { wireRow } from '../../../packages/core/test/support/wire-rows';
import { Generated, rowsOf } from './support/generated';
import type { NaiveLine } from './support/naive-proof';
import { naiveLines } from './support/naive-proof';
import { engineCells, layouts, readAs, totalled, withStretches } from './support/proof-lines';

describe('what stands beside the figures of a proof', () => {
  let generated: Generated;
  beforeAll(async () => (generated = await Generated.open()));
  afterAll(() => generated.close());

  test('is what the figures of the groups beside them say', async () => {
    const seen = new Map<string, number>();
    await fc.assert(
      fc.asyncProperty(
        layouts,
        fc.array(
          totalled.chain((each) => fc.subarray<DownBeside>([...DOWN]).map((beside) => ({ ...each, beside }))),
          { minLength: 1, maxLength: 2 },
        ),
        fc.array(wireRow, { maxLength: 14 }),
        async (given, totals, rows) => {
          await generated.fill(rows);
          const levels = given.levels.map(({ ofSeveral: _some, ...each }) => ({ ...each, subtotal: true }));
          const read = await readAs(generated, { ...given, levels, totals, rows: false, grandTotal: true, marks: totals.map(averaged) });
          const { columns, cells } = await engineCells(generated, read);
          const naive = naiveLines(read.layout, read.fields, withStretches(read, rowsOf(rows)));
          expect(cells.length).toBe(naive.length);
          naive.forEach((line, at) =>
            read.layout.totals.forEach((total, index) => {
              const averages = read.layout.marks.some((mark) => mark.field === total.field && mark.of === total.aggregate);
              for (const kind of [...(total.beside ?? []), ...(averages ? [AVERAGE] : [])]) {
                const place = columns.findIndex((each) => each.id === besideColumn(index, kind));
                const told = cells[at]?.[place] ?? null;
                const own =
                  line.kind === 'totals'
                    ? besideByHand(naive, line, index, total, kind as DownBeside | typeof AVERAGE, columns[place]?.type)
                    : null;
                expect([kind, told === null ? null : parseDecimal(told)]).toEqual([kind, own]);
                if (own !== null) seen.set(kind, (seen.get(kind) ?? 0) + 1);
              }
            }),
          );
        },
      ),
      { numRuns: 100, seed: 18 },
    );
    for (const kind of [...DOWN, AVERAGE]) expect([kind, (seen.get(kind) ?? 0) > 20]).toEqual([kind, true]);
  });
});

/** Those that are told by the groups beside, and not by columns. */
type DownBeside = (typeof DOWN)[number];
const DOWN = ['share', 'difference', 'change', 'running total', 'rank'] as const satisfies readonly Beside[];

const AVERAGE = 'average of the groups' as const;

/** A mark that compares a total with the average of the groups beside it. */
const averaged = ({ field, aggregate }: Total, index: number): Mark => ({
  id: `average ${index}`,
  field,
  of: aggregate,
  operator: 'above',
  operands: [],
  against: { of: 'average' },
  look: 'good',
});

/** Read off the lines: the group above, and those of the same group above in the order they stand. */
function besideByHand(
  lines: readonly NaiveLine[],
  line: NaiveLine,
  index: number,
  { aggregate }: Total,
  kind: DownBeside | typeof AVERAGE,
  type: FieldType | undefined,
): Decimal | null {
  const level = line.level ?? 0;
  const own = line.totals[index];
  if (level === 0 || own === undefined || (own === null && kind !== AVERAGE)) return null;
  const value = (of: NaiveLine | undefined) =>
    of?.totals[index] === null || of?.totals[index] === undefined ? undefined : parseDecimal(of.totals[index] ?? '');
  const mine = parseDecimal(own ?? '0');
  if (!mine) return null;
  const within = (of: NaiveLine, depth: number) =>
    of.kind === 'totals' &&
    of.level === depth &&
    JSON.stringify(of.keys.slice(0, level - 1)) === JSON.stringify(line.keys.slice(0, level - 1));
  const siblings = lines.filter((each) => within(each, level));
  const before = siblings[siblings.indexOf(line) - 1];
  const scale = type?.kind === 'decimal' ? type.scale : 0;
  const hundred = (of: Decimal) => multiplyDecimals(of, ofWhole(100n));
  const put = (of: Decimal | undefined) => (of ? rescale(of, scale) : null);
  switch (kind) {
    case 'share': {
      const above = value(lines.find((each) => within(each, level - 1)));
      return above && above.digits !== 0n ? (divideDecimals(hundred(mine), above, scale) ?? null) : null;
    }
    case AVERAGE: {
      // That of averages is the one of the group above, made of all its rows.
      const above = lines.find((each) => within(each, level - 1));
      const of = aggregate === 'average' ? [value(above)] : siblings.map(value);
      const known = of.flatMap((each) => each ?? []);
      return known.length === 0 ? null : (divideDecimals(known.reduce(addDecimals), ofWhole(BigInt(known.length)), scale) ?? null);
    }
    case 'difference': {
      const other = value(before);
      return other ? put(addDecimals(mine, negateDecimal(other))) : null;
    }
    case 'change': {
      const other = value(before);
      return other && other.digits !== 0n ? (divideDecimals(hundred(addDecimals(mine, negateDecimal(other))), other, scale) ?? null) : null;
    }
    case 'running total':
      return put(
        siblings
          .slice(0, siblings.indexOf(line) + 1)
          .flatMap((each) => value(each) ?? [])
          .reduce(addDecimals),
      );
    case 'rank':
      return ofWhole(BigInt(1 + siblings.filter((each) => compareDecimals(value(each) ?? mine, mine) > 0).length));
  }
}
