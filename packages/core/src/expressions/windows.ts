import type { FieldType } from '../fields';
import type { Decimal, Value } from '../values';
import { addDecimals, compareValues, fitsDigits, ofWhole, rescale, writeValue } from '../values';
import type { Row } from './evaluate';
import { evaluate } from './evaluate';
import type { OrderBy, Window } from './expression';
import { plainDigits } from './primitives';

/** From this magnitude on floating numbers are added after scaling them down by 2⁶⁴. */
export const LARGE_SUM = 1e290;
export const SUM_SCALE = 2 ** -64;

/** One row as a window sees it: its place in the input, its keys and what is aggregated. */
interface Seen {
  readonly index: number;
  readonly order: readonly Value[];
  readonly of: readonly Value[];
}

/**
 * The value of a window in every row, in the order of the rows. Slow on purpose: each row looks at its whole
 * frame. Rows that are equal in the order keep the order they came in.
 */
export function windowValues(node: Window, rows: readonly Row[]): readonly Value[] {
  const partitions = new Map<string, Seen[]>();
  rows.forEach((row, index) => {
    const key = JSON.stringify(node.partition.map((each) => keyText(each.type, evaluate(each, row))));
    const seen: Seen = { index, order: node.order.map((each) => evaluate(each.of, row)), of: node.of.map((each) => evaluate(each, row)) };
    partitions.set(key, [...(partitions.get(key) ?? []), seen]);
  });
  const values: Value[] = rows.map(() => null);
  for (const partition of partitions.values()) {
    const sorted = partition.toSorted((a, b) => compareKeys(node.order, a.order, b.order));
    sorted.forEach((seen, at) => {
      values[seen.index] = valueAt(node, sorted, at);
    });
  }
  return values;
}

/** Equal values have equal keys, whatever their scale. */
function keyText(type: FieldType, value: Value): string | null {
  if (value === null) return null;
  return typeof value === 'object' ? plainDigits(value) : writeValue(type, Object.is(value, -0) ? 0 : value);
}

function compareKeys(order: readonly OrderBy[], a: readonly Value[], b: readonly Value[]): number {
  for (const [index, { of, descending, nullsFirst }] of order.entries()) {
    const [x = null, y = null] = [a[index], b[index]];
    if (x === null && y === null) continue;
    if (x === null || y === null) return (x === null) === nullsFirst ? -1 : 1;
    const difference = compareValues(of.type, x, y);
    if (difference !== 0) return descending ? -difference : difference;
  }
  return 0;
}

function valueAt(node: Window, sorted: readonly Seen[], at: number): Value {
  const current = sorted[at];
  if (!current) return null;
  const same = (other: Seen | undefined) => other !== undefined && compareKeys(node.order, current.order, other.order) === 0;
  switch (node.name) {
    case 'rowNumber':
      return ofWhole(BigInt(at + 1));
    case 'rank':
      return ofWhole(BigInt(sorted.findIndex(same) + 1));
    case 'denseRank': {
      const begins = sorted.filter(
        (each, index) => index === 0 || compareKeys(node.order, each.order, sorted[index - 1]?.order ?? []) !== 0,
      );
      return ofWhole(BigInt(begins.findIndex(same) + 1));
    }
    case 'lag':
    case 'lead': {
      const other = sorted[at + (node.name === 'lag' ? -1 : 1) * (node.step ?? 1)];
      return other ? (other.of[0] ?? null) : (current.of[1] ?? null);
    }
    default:
      return aggregate(node, frameOf(node, sorted, at));
  }
}

/** The rows a window's value in row `at` is made from, in its order. */
function frameOf<T extends Pick<Seen, 'order'>>(node: Window, sorted: readonly T[], at: number): readonly T[] {
  if (node.frame) {
    const { from, until } = node.frame;
    return sorted.slice(from === undefined ? 0 : Math.max(0, at + from), until === undefined ? undefined : Math.max(0, at + until + 1));
  }
  if (node.order.length === 0) return sorted;
  const current = sorted[at];
  return sorted.filter((each, index) => index <= at || (current && compareKeys(node.order, current.order, each.order) === 0));
}

function aggregate(node: Window, frame: readonly Pick<Seen, 'of'>[]): Value {
  if (node.name === 'countRows') return ofWhole(BigInt(frame.length));
  const all = frame.map((each) => each.of[0] ?? null);
  if (node.name === 'first') return all[0] ?? null;
  const present = all.filter((each) => each !== null);
  if (node.name === 'count') return ofWhole(BigInt(present.length));
  if (present.length === 0) return null;
  if (node.name === 'sum') return total(node.type, present);
  const sign = node.name === 'max' ? 1 : -1;
  return present.reduce((best, each) => (compareValues(node.type, each, best) * sign > 0 ? each : best));
}

function total(type: FieldType, values: readonly Exclude<Value, null>[]): Value {
  if (type.kind !== 'decimal') {
    // Scaled down by a power of two where the way there could overflow although the sum does not.
    const scale = values.some((each) => !(Math.abs(each as number) < LARGE_SUM)) ? SUM_SCALE : 1;
    const sum = values.reduce((result: number, each) => result + (each as number) * scale, 0) / scale;
    return Number.isFinite(sum) ? sum : null;
  }
  const sum = values.reduce((result: Decimal, each) => addDecimals(result, each as Decimal), { digits: 0n, scale: type.scale });
  const scaled = rescale(sum, type.scale);
  return fitsDigits(scaled, type.precision) ? scaled : null;
}
