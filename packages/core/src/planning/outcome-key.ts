import { z } from 'zod';
import type { Expression } from '../expressions';
import { conjunction, fieldsUsed } from '../expressions';
import { refuse } from '../problem';
import type { Binding } from '../parameters';
import type { Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';
import type { CheckedOf } from '../steps';
import { joinCondition } from '../steps';
import { equalTo } from './equal-to';

/** What rows of a join's first side meet by, as its evidence tells it: values in wire form, in the order it tells them. */
export type OutcomeKey =
  /** A worst key. */
  | { readonly values: readonly (string | null)[] }
  /** A near miss: the value of one pair, then those the other pairs ask of the first side. */
  | { readonly pair: string; readonly values: readonly (string | null)[] };

const values = z.array(z.string().max(10_000).nullable()).max(200);
export const outcomeKeyShape = z.union([z.strictObject({ values }), z.strictObject({ pair: z.string().max(100), values })]);

/** The rows of the first side that meet by a key. Throws a ProblemError where the join asks for something else now. */
export function rowsOfKey(join: CheckedOf<'join'>, key: OutcomeKey, left: Relation, binding: Binding): Relation {
  const expressions = 'pair' in key ? missedBy(join, key.pair) : metBy(join, 'left', left, binding);
  if (expressions.length !== key.values.length || expressions.length === 0)
    return refuse('inspection-unsuited', 'The join asks for something else now.', { step: join.step.id });
  const condition = conjunction(expressions.map((each, at) => equalTo(each, key.values[at] ?? null)));
  return { node: 'filter', input: left, condition };
}

/**
 * What rows of a side meet by: its equal values, or the fields any other condition asks of it. `input` has the side's
 * fields as they stand behind the join.
 */
export function metBy(
  { checked, ...join }: CheckedOf<'join'>,
  side: 'left' | 'right',
  input: Relation,
  binding: Binding,
): readonly Expression[] {
  const { pairs } = checked;
  if (pairs.length > 0 && pairs.every((each) => each.equal !== undefined)) return pairs.flatMap((each) => equalOn(each, side));
  const used = new Set(fieldsUsed(joinCondition({ checked, ...join }, binding)));
  return columnsOf(input).flatMap((each) => (used.has(each.id) ? [valueOf(each)] : []));
}

function missedBy({ checked }: CheckedOf<'join'>, pair: string): readonly Expression[] {
  const found = checked.pairs.find((each) => each.pair.id === pair);
  return found?.sides ? [found.sides.left, ...checked.pairs.filter((each) => each !== found).flatMap((each) => equalOn(each, 'left'))] : [];
}

type Pair = CheckedOf<'join'>['checked']['pairs'][number];
const equalOn = ({ equal }: Pair, side: 'left' | 'right') => (equal ?? []).map((each) => each[side]);
