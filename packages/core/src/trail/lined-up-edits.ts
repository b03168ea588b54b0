import type { FieldId } from '../fields';
import type { UnionField, UnionStep } from '../steps';
import { exchanged, lineWith, withoutInputLinedUp } from '../steps';
import type { Definition } from './definition';
import type { Edit } from './edits';
import { usersOf } from './repoint';

/** Lining up the fields of a union by hand. A field nothing makes any more goes, unless steps behind ask for it. */

type Shape = Pick<Definition, 'steps' | 'parameters'>;

const usedBehind = (definition: Shape) => (field: string) => usersOf(definition, new Set([field])).length > 0;

const setFields = (step: UnionStep, to: readonly UnionField[]): readonly Edit[] =>
  to === step.fields ? [] : [{ kind: 'set step', step: step.id, property: 'fields', from: step.fields, to }];

/** What two fields are in an input is exchanged. */
export const exchangedEdits = (definition: Shape, step: UnionStep, slot: number, from: string, to: string): readonly Edit[] =>
  setFields(step, exchanged(step.fields, slot, from, to, usedBehind(definition)));

/** A field is another one in an input, or none; the other one leaves a line in which it stood alone. */
export const lineWithEdits = (definition: Shape, step: UnionStep, slot: number, to: string, id: FieldId | null): readonly Edit[] =>
  setFields(step, lineWith(step.fields, slot, to, id, usedBehind(definition)));

/** Takes an input out; those behind it move up. */
export function withoutInputEdits(definition: Shape, step: UnionStep, slot: number): readonly Edit[] {
  const { id, inputs, source } = step;
  const left = inputs.toSpliced(slot, 1);
  const words = source && { ...source, words: source.words.toSpliced(slot, 1) };
  return [
    ...setFields(step, withoutInputLinedUp(step.fields, inputs.length, slot, usedBehind(definition))),
    ...(words ? [{ kind: 'set step', step: id, property: 'source', from: source, to: words } as const] : []),
    ...inputs.flatMap((from, at): readonly Edit[] => {
      const to = left[at] ?? null;
      return from === to ? [] : [{ kind: 'set input', step: id, slot: at, from, to }];
    }),
  ];
}
