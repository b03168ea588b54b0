import type { Field, FieldId, FieldType } from '../fields';
import { freeName } from '../fields';
import { commonFor } from './common-type';
import type { Arriving } from './step';
import type { UnionField, UnionStep } from './union';

/** Which field of each input makes a field of a union: found by name to begin with, then lined up by hand. */

const taken = ({ schema }: Arriving): readonly Field[] => {
  const handed = schema.fields.filter((each) => !each.forUseOnly);
  return handed.length > 0 ? handed : schema.fields;
};

/** Fields lined up by name, whatever its case, and type; what an input has alone stands behind the others. */
export function linedUp(mint: () => string, arriving: readonly Arriving[]): readonly UnionField[] {
  const made: { readonly name: string; readonly type: FieldType; readonly from: (FieldId | null)[] }[] = [];
  arriving.forEach((each, slot) => {
    for (const field of taken(each)) {
      const suits = made.find(
        ({ name, type, from }) =>
          (from[slot] ?? null) === null && name.toLowerCase() === field.name.toLowerCase() && commonFor(type, field.type),
      );
      if (suits) suits.from[slot] = field.id;
      else
        made.push({
          name: freeName(field.name, new Set(made.map((each) => each.name))),
          type: field.type,
          from: arriving.map((_other, at) => (at === slot ? field.id : null)),
        });
    }
  });
  return made.map(({ name, from }) => ({ id: mint(), name, from, as: null }));
}

/** Two steps on top of one another, lined up by name. */
export const unionStep = (mint: () => string, inputs: readonly string[], arriving: readonly Arriving[]): UnionStep => ({
  id: mint(),
  kind: 'union',
  name: '',
  off: false,
  inputs,
  once: false,
  fields: linedUp(mint, arriving),
  source: null,
});

/** The fields with those of one more input behind `slots` others: beside what is called alike, or behind all. */
export function withInputLinedUp(mint: () => string, fields: readonly UnionField[], slots: number, next: Arriving): readonly UnionField[] {
  const fresh = linedUp(mint, [next]);
  const free = new Map(fresh.map((each) => [each.name.toLowerCase(), each.from[0] ?? null]));
  const known = fields.map((field) => {
    const found = free.get(field.name.toLowerCase()) ?? null;
    if (found !== null) free.delete(field.name.toLowerCase());
    return { ...field, from: [...bySlot(field.from, slots), found] };
  });
  const names = new Set(fields.map((each) => each.name));
  const added = fresh.flatMap((each) => {
    const id = free.get(each.name.toLowerCase());
    if (id === undefined || id === null) return [];
    const name = freeName(each.name, names);
    names.add(name);
    return [{ ...each, name, from: [...bySlot([], slots), id] }];
  });
  return [...known, ...added];
}

/** The fields without those of an input; one that is a field of no other goes, unless it is `used` behind the union. */
export const withoutInputLinedUp = (
  fields: readonly UnionField[],
  slots: number,
  slot: number,
  used: (field: string) => boolean,
): readonly UnionField[] =>
  fields.flatMap((field) => {
    const from = bySlot(field.from, slots).toSpliced(slot, 1);
    if (from.every((each) => each === null) && !used(field.id)) return [];
    return [filledWith({ ...field, from }, field.fill && bySlot(field.fill, slots).toSpliced(slot, 1))];
  });

/**
 * What a field is in an input becomes what another one is there, and the other way round: `from` and `to` are exchanged
 * in that slot. A field that is none of any input then goes, unless it is `used` behind the union.
 */
export function exchanged(
  fields: readonly UnionField[],
  slot: number,
  from: string,
  to: string,
  used: (field: string) => boolean,
): readonly UnionField[] {
  const [one, other] = [from, to].map((id) => fields.find((each) => each.id === id));
  if (!one || !other || one === other) return fields;
  return fields.flatMap((field) => {
    if (field !== one && field !== other) return [field];
    const put = withSlot(field, slot, (field === one ? other : one).from[slot] ?? null);
    return put.from.every((each) => each === null) && !used(field.id) ? [] : [put];
  });
}

/** A field that is another one in an input from now on; it leaves a line where it stood by itself. */
export function lineWith(
  fields: readonly UnionField[],
  slot: number,
  to: string,
  id: FieldId | null,
  used: (field: string) => boolean,
): readonly UnionField[] {
  const alone = (each: UnionField) => each.from.every((from, at) => (at === slot ? from === id : from === null));
  return fields.flatMap((field) => {
    if (field.id === to) return [withSlot(field, slot, id)];
    return id !== null && alone(field) && !used(field.id) ? [] : [field];
  });
}

const bySlot = <T>(given: readonly (T | null)[], slots: number): readonly (T | null)[] =>
  Array.from({ length: slots }, (_each, at) => given[at] ?? null);

/** What was typed where the input had no such field does not outlive its getting one. */
function withSlot(field: UnionField, slot: number, id: FieldId | null): UnionField {
  const slots = Math.max(field.from.length, slot + 1);
  const fill = id === null ? field.fill : field.fill?.map((each, at) => (at === slot ? null : each));
  return filledWith({ ...field, from: bySlot(field.from, slots).with(slot, id) }, fill);
}

function filledWith({ fill: _old, ...field }: UnionField, fill: UnionField['fill']): UnionField {
  return fill?.some((each) => each !== null) ? { ...field, fill } : field;
}
