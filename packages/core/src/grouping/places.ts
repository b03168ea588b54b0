import type { Across } from './layout';

/** What a group across is told by at one level, in wire form. Null is a value like others. */
export interface AcrossKey {
  readonly value: string | null;
  /** What it is shown by, of a level that is shown by another field. */
  readonly shown?: string | null;
  /** It is all that is not among the first, together, and has no value. */
  readonly rest?: true;
}

/** The values of a column, one of each level across from the outermost in; fewer where it is of all that is in a group. */
export type AcrossPlace = readonly AcrossKey[];

/**
 * The columns per value of a line, in the order they stand in: those of each value found, and those over all of a group
 * behind or before what is in it, down to the one over everything. `found` has every value of all levels once, in order; one of fewer levels has nothing in it.
 * Where nothing was found there is the one over everything, as a line needs a figure.
 */
export function acrossPlaces(across: Across, found: readonly AcrossPlace[]): readonly AcrossPlace[] {
  const { levels, total, totalsFirst } = across;
  const within = (own: AcrossPlace, inside: readonly AcrossPlace[]): readonly AcrossPlace[] => {
    if (own.length === levels.length) return [own];
    const groups = together(inside, own.length);
    const parts = groups.flatMap(([group, of]) => within(group, of));
    const level = levels[own.length - 1];
    const shown = level ? level.subtotal && (!level.ofSeveral || groups.length > 1) : total || found.length === 0;
    if (!shown) return parts;
    return (level ? level.totalsFirst : totalsFirst) ? [own, ...parts] : [...parts, own];
  };
  return within([], found);
}

/** Neighbours that share their values one level further in than `depth`. */
function together(places: readonly AcrossPlace[], depth: number): readonly (readonly [AcrossPlace, readonly AcrossPlace[]])[] {
  const groups: [AcrossPlace, AcrossPlace[]][] = [];
  for (const each of places.filter((place) => place.length > depth)) {
    const last = groups.at(-1);
    if (last && sameKey(last[0][depth], each[depth])) last[1].push(each);
    else groups.push([each.slice(0, depth + 1), [each]]);
  }
  return groups;
}

/** Whether two are one group. */
export const sameKey = (a: AcrossKey | undefined, b: AcrossKey | undefined): boolean => a?.value === b?.value && a?.rest === b?.rest;

/** Of each place the one before it among those of its group, by its number; none of the first, of totals over everything, and of the rest together. */
export const placesBefore = (places: readonly AcrossPlace[]): readonly (number | undefined)[] =>
  places.map((place, number) => {
    const depth = place.length - 1;
    if (depth < 0 || place[depth]?.rest) return undefined;
    const beside = (each: AcrossPlace) => each.length === place.length && each.slice(0, depth).every((key, at) => sameKey(key, place[at]));
    const before = places.findLastIndex((each, at) => at < number && beside(each));
    return before < 0 ? undefined : before;
  });

/** Places as `acrossValues` gives them: of each level its value, where it shows its first ones only whether it is the rest, and what it is shown by; and by how many levels it is told. */
export const foundPlaces = ({ levels }: Across, rows: readonly (readonly (string | null)[])[]): readonly AcrossPlace[] =>
  rows.map((row) => {
    const cells = row.values();
    const next = () => cells.next().value ?? null;
    const keys = levels.map(({ first, shown }): AcrossKey => {
      const value = next();
      const rest = first !== undefined && next() === 'true';
      const name = shown === undefined ? {} : { shown: next() };
      return rest ? { value: null, rest } : { value, ...name };
    });
    return keys.slice(0, Number(next() ?? levels.length));
  });
