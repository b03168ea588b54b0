import fc from 'fast-check';
import type { ArrangeStep, Schema, Step, UnpivotStep } from '../../src';
import { isNumber } from '../../src';
import { rarely } from './graph-fields';

/** Generated steps that turn fields into rows, and that sort, count and choose. */
export type MadeTurned =
  | {
      readonly kind: 'unpivot';
      readonly on: number;
      readonly first: number;
      readonly pairs: boolean;
      readonly nulls: boolean;
      readonly off: boolean;
    }
  | {
      readonly kind: 'arrange';
      readonly on: number;
      readonly turn: number;
      readonly descending: number;
      readonly count: number | null;
      readonly ties: boolean;
      readonly per: boolean;
      readonly distinct: boolean;
      readonly leaves: boolean;
      readonly off: boolean;
    };

export const madeTurned: fc.Arbitrary<MadeTurned> = fc.oneof(
  fc.record({
    kind: fc.constant('unpivot' as const),
    on: fc.nat(20),
    first: fc.nat(20),
    pairs: fc.boolean(),
    nulls: fc.boolean(),
    off: rarely(8),
  }),
  fc.record({
    kind: fc.constant('arrange' as const),
    on: fc.nat(20),
    turn: fc.nat(20),
    descending: fc.nat(7),
    count: fc.option(fc.integer({ min: 1, max: 5 }), { freq: 4 }),
    ties: fc.boolean(),
    per: fc.boolean(),
    distinct: rarely(8),
    leaves: fc.boolean(),
    off: rarely(8),
  }),
);

export function turnedStep(made: MadeTurned, on: Step, { fields }: Schema, id: string): Step {
  const base = { id, name: '', off: made.off, inputs: [on.id] };
  if (made.kind === 'unpivot') {
    const numbers = fields.filter((each) => isNumber(each.type));
    const number = (at: number) => numbers[at % numbers.length]?.id ?? null;
    const values = [0, ...(made.pairs ? [1] : [])];
    const step: UnpivotStep = {
      ...base,
      kind: 'unpivot',
      label: { id: `${id}-what`, name: `what_${id}` },
      values: values.map((at) => ({ id: `${id}-f${at}`, name: `turned_${id}_${at}`, as: null })),
      lines: ['one', 'another'].map((word, at) => ({
        id: `${id}-l${at}`,
        word,
        from: values.map((value) => number(made.first + at + 2 * value)),
      })),
      nulls: made.nulls,
    };
    return step;
  }
  // Sorted by everything, rows that are equal in the order are equal.
  const turned = fields.map((_each, at) => fields[(at + made.turn) % fields.length]).flatMap((each) => each ?? []);
  // What is left out sorts nothing, for it would stay for use: rows that differ in it alone are equal afterwards.
  const kept = made.leaves ? turned.slice(0, Math.max(1, turned.length - 1)) : turned;
  const sort = kept.map(({ id: field }, at) => ({
    id: `${id}-s${at}`,
    field,
    descending: (made.descending >> (at % 3)) % 2 === 1,
    nullsFirst: (made.descending >> ((at + 1) % 3)) % 2 === 1,
  }));
  // With ties, few fields sort, and those that are equal in them are all kept.
  const some = made.ties && !made.distinct ? sort.slice(0, 1) : sort;
  const [one] = turned;
  const per = made.per && one ? [one.id] : [];
  const step: ArrangeStep = {
    ...base,
    kind: 'arrange',
    sort: some,
    first: made.count === null ? null : { count: { text: String(made.count), refs: [] }, ties: made.ties, per },
    distinct: made.distinct && one ? [one.id] : null,
    fields: made.leaves ? kept.map(({ id: field }) => ({ field, forUseOnly: false })) : null,
  };
  return step;
}
