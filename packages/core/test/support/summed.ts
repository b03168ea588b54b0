import fc from 'fast-check';
import type { ExpressionText, Step, SummariseStep, SummaryAggregate } from '../../src';
import { fieldById, isNumber, sameType, SUMMARY_AGGREGATES, unionStep } from '../../src';
import { arrivingFrom, rarely, written } from './graph-fields';

/** Generated steps that stack other steps, and that sum rows up. */
export type MadeSummed =
  | {
      readonly kind: 'union';
      readonly on: number;
      readonly others: readonly number[];
      readonly once: boolean;
      readonly source: boolean;
      readonly off: boolean;
    }
  | {
      readonly kind: 'summarise';
      readonly on: number;
      readonly keys: readonly number[];
      readonly values: readonly { readonly aggregate: SummaryAggregate; readonly of: number; readonly among: boolean }[];
      /** Groups also without rows: for every value of another step. */
      readonly every: { readonly with: number; readonly zero: boolean } | null;
      readonly off: boolean;
    };

export const madeSummary = fc.record({
  kind: fc.constant('summarise' as const),
  on: fc.nat(20),
  keys: fc.uniqueArray(fc.nat(20), { maxLength: 2 }),
  values: fc.array(fc.record({ aggregate: fc.constantFrom(...SUMMARY_AGGREGATES), of: fc.nat(20), among: rarely(3) }), { maxLength: 4 }),
  every: fc.option(fc.record({ with: fc.nat(20), zero: fc.boolean() }), { freq: 2 }),
  off: rarely(8),
});

export const madeUnion: fc.Arbitrary<MadeSummed> = fc.record({
  kind: fc.constant('union' as const),
  on: fc.nat(20),
  others: fc.array(fc.nat(20), { minLength: 1, maxLength: 2 }),
  once: fc.boolean(),
  source: fc.boolean(),
  off: rarely(8),
});

/** Steps on top of one another, lined up by their names. */
export function stackOf(made: MadeSummed & { kind: 'union' }, on: Step, all: readonly Step[], id: string): Step {
  const others = made.others.map((each) => all[each % all.length] as Step);
  const arriving = [on, ...others].map(arrivingFrom(all, on));
  let count = 0;
  const step = unionStep(
    () => `${id}-f${count++}`,
    [on, ...others].map((each) => each.id),
    arriving,
  );
  const source = made.source ? { id: `${id}-tag`, name: `came_from_${id}`, words: arriving.map((_each, at) => `input ${at}`) } : null;
  return { ...step, id, off: made.off, once: made.once, source };
}

/** Rows summed up by generated fields; firsts and lasts are told by their own order, so that ties are equal values. */
export function summaryOf(made: MadeSummed & { kind: 'summarise' }, on: Step, all: readonly Step[], id: string): Step {
  const arriving = arrivingFrom(all, on);
  const { fields } = arriving(on).schema;
  const any = (at: number) => fields[at % fields.length];
  const numbers = fields.filter((each) => isNumber(each.type));
  const number = (at: number) => numbers[at % numbers.length];
  const nothing: ExpressionText = { text: '', refs: [] };
  const keys = made.keys.flatMap((at, index) => {
    const field = any(at);
    return field ? [{ id: `${id}-k${index}`, name: `key_${id}_${index}`, expression: written(field) }] : [];
  });
  const values = made.values.flatMap(({ aggregate, of, among }, index) => {
    const field = number(of);
    if (!field) return [];
    const own = written(field);
    const least: ExpressionText = { text: `${own.text} > 1`, refs: own.refs };
    const base = { id: `${id}-f${index}`, name: `f_${id}_${index}`, aggregate, among: among ? least : nothing };
    if (aggregate === 'joined') return { ...base, expression: own, order: nothing, separator: index % 2 === 0 ? ' / ' : '' };
    if (aggregate === 'share') return [{ ...base, expression: least, order: nothing }];
    return [{ ...base, expression: own, order: aggregate === 'first' || aggregate === 'last' ? own : nothing }];
  });
  const summary: SummariseStep = { id, kind: 'summarise', name: '', off: made.off, inputs: [on.id], keys, values };
  const [first] = keys;
  const type = first && fieldById({ fields }, first.expression.refs[0]?.id ?? '')?.type;
  const other = made.every && (all[made.every.with % all.length] as Step);
  const given = other && arriving(other).schema.fields.find((each) => type && sameType(each.type, type));
  if (!made.every || !other || !first || !given) return summary;
  const part = { from: 'step' as const, key: first.id, slot: 1, field: given.id };
  return { ...summary, inputs: [on.id, other.id], every: { parts: [part], filledWith: made.every.zero ? '0' : 'null' } };
}
