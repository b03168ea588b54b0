import fc from 'fast-check';
import type { ComparedPair, Field, JoinPair, Kept, MatchSwitch, Step } from '../../src';
import { comparedPair, joinStep, renameReference, SWITCHES, withTexts } from '../../src';
import { arrivingFrom, rarely, written } from './graph-fields';

/** Generated steps that join other steps, or look fields up in them. */
export type MadeJoined =
  | {
      readonly kind: 'join';
      readonly on: number;
      readonly with: number;
      readonly off: boolean;
      readonly keeps: Kept;
      readonly pairs: readonly MadePair[];
      readonly one: boolean;
    }
  | {
      readonly kind: 'lookup';
      readonly on: number;
      readonly partners: readonly { readonly with: number; readonly pair: MadePair; readonly one: boolean }[];
      readonly off: boolean;
    };

interface MadePair {
  readonly how: 'numbers' | 'texts' | 'between' | 'written';
  readonly comparison: ComparedPair['comparison'];
  readonly overlooks: readonly MatchSwitch[];
  readonly nullsMeet: boolean;
  readonly left: number;
  readonly right: number;
}

const pair: fc.Arbitrary<MadePair> = fc.record({
  how: fc.constantFrom('numbers', 'numbers', 'texts', 'texts', 'between', 'written'),
  comparison: fc.constantFrom('=', '=', '=', '<', '<=', '>', '>='),
  overlooks: fc.subarray([...SWITCHES]),
  nullsMeet: fc.boolean(),
  left: fc.nat(20),
  right: fc.nat(20),
});

export const madeJoin: fc.Arbitrary<MadeJoined> = fc.record({
  kind: fc.constant('join' as const),
  on: fc.nat(20),
  with: fc.nat(20),
  off: rarely(8),
  keeps: fc
    .record({ met: fc.boolean(), left: fc.boolean(), right: fc.boolean() })
    .map((keeps) => (keeps.met || keeps.left || keeps.right ? keeps : { ...keeps, met: true })),
  pairs: fc.array(pair, { minLength: 1, maxLength: 2 }),
  one: rarely(4),
});

export const madeLookup: fc.Arbitrary<MadeJoined> = fc.record({
  kind: fc.constant('lookup' as const),
  on: fc.nat(20),
  partners: fc.array(fc.record({ with: fc.nat(20), pair, one: fc.boolean() }), { minLength: 1, maxLength: 2 }),
  off: rarely(8),
});

/** A join of two steps, all fields of the second taken, which meet by generated pairs. */
export function joinOf(made: MadeJoined & { kind: 'join' }, on: Step, all: readonly Step[], id: string): Step {
  const other = all[made.with % all.length] as Step;
  const arriving = arrivingFrom(all, on);
  let count = 0;
  const step = joinStep(() => `${id}-j${count++}`, [on.id, other.id], [arriving(on), arriving(other)], 'other');
  const own = arriving(on).schema.fields;
  const theirs = step.fields.flatMap(({ id: of, from, name }) => {
    const field = arriving(other).schema.fields.find((each) => each.id === from);
    return field ? [{ ...field, id: of, name }] : [];
  });
  const taken = theirs.map((each) => each.id);
  const one = made.one ? taken.slice(0, 20).map((field) => ({ field, descending: field.length % 2 === 0 })) : null;
  const pairs = made.pairs.map((each, at) => pairOf(each, `${id}-p${at}`, own, theirs));
  return { ...step, id, off: made.off, keeps: made.keeps, pairs, taken, one };
}

/** Fields of other steps looked up, each partner by one generated pair; where several may be found the first by all its fields. */
export function lookupOf(made: MadeJoined & { kind: 'lookup' }, on: Step, all: readonly Step[], id: string): Step {
  const joins = made.partners.map((each, at) =>
    joinOf(
      { ...made, kind: 'join', with: each.with, keeps: { met: true, left: true, right: false }, pairs: [each.pair], one: each.one },
      on,
      all,
      `${id}-l${at}`,
    ),
  );
  const partners = joins.flatMap((each) => {
    if (each.kind !== 'join') return [];
    const { id: of, pairs, role, taken, one } = each;
    const fields = each.fields.map((field) => ({ ...field, name: `${of}_${field.name}` }));
    const names = new Map(each.fields.map((field) => [field.id, `${of}_${field.name}`]));
    const renamed = pairs.map((pair) =>
      [...names].reduce((done, [field, name]) => withTexts(done, (text) => renameReference(text, 'field', field, name)), pair),
    );
    return [{ id: of, pairs: renamed, role, fields, taken, one }];
  });
  return { id, kind: 'lookup', name: '', off: made.off, inputs: [on.id, ...joins.flatMap((each) => each.inputs[1] ?? [])], partners };
}

function pairOf(made: MadePair, id: string, own: readonly Field[], theirs: readonly Field[]): JoinPair {
  const kind = made.how === 'texts' ? 'text' : 'whole';
  const pick = (fields: readonly Field[], at: number) => {
    const some = fields.filter((each) => each.type.kind === kind);
    const field = some[at % some.length];
    // A side without a field of the kind leaves the pair unfinished.
    return field ? written(field) : { text: '', refs: [] };
  };
  const [left, right, until] = [pick(own, made.left), pick(theirs, made.right), pick(theirs, made.right + 1)];
  const { nullsMeet } = made;
  if (made.how === 'between') return comparedPair({ id, left, comparison: 'between', right, until, nullsMeet });
  if (made.how !== 'written') {
    const { comparison } = made;
    return comparedPair({ id, left, comparison, right, nullsMeet, overlooks: comparison === '=' && kind === 'text' ? made.overlooks : [] });
  }
  const joined = `${left.text} + ${right.text} > 3`;
  const behind = left.text.length + 3;
  const refs = [...left.refs, ...right.refs.map((each) => ({ ...each, from: each.from + behind, to: each.to + behind }))];
  return { id, kind: 'written', expression: { text: joined, refs } };
}
