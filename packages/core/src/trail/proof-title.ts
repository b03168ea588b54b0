import type { GivenValues, Parameter } from '../parameters';
import type { Definition } from './definition';
import { valuesText } from './sentence';

/**
 * A title of the proof, written by hand. Parameters stand in it by their ids, as `:{id}`, so that it says the same whatever
 * they are called; it is typed and read with `:name`.
 */
const BY_ID = /:\{([^{}]+)\}/g;
const BY_NAME = /:([\p{L}_][\p{L}\p{N}_]*)/gu;

/** As it is kept, of what was typed: `:name` of a parameter there is becomes its id, anything else stays as it is. */
export function keptTitle(typed: string, parameters: readonly Pick<Parameter, 'id' | 'name'>[]): string {
  return typed.replace(BY_NAME, (written, name: string) => {
    const found = parameters.find((each) => each.name === name);
    return found ? `:{${found.id}}` : written;
  });
}

/** As it is typed, of what is kept. A parameter that is gone has no name any more. */
export function typedTitle(kept: string, parameters: readonly Pick<Parameter, 'id' | 'name'>[]): string {
  return kept.replace(BY_ID, (_written, id: string) => `:${parameters.find((each) => each.id === id)?.name ?? GONE}`);
}

const GONE = 'gone';

/** Names in a title that are of no parameter. */
export function unknownInTitle(kept: string): readonly string[] {
  const names = [...kept.matchAll(BY_NAME)].map(([, name = '']) => name);
  return [...new Set(names)];
}

/** The parameters that stand in a title. */
export const parametersInTitle = (kept: string): readonly string[] => [...kept.matchAll(BY_ID)].flatMap(([, id = '']) => id);

/** As it is read, with the values in use. */
export function shownTitle(kept: string, { parameters }: Pick<Definition, 'parameters'>, values: GivenValues): string {
  return kept.replace(BY_ID, (_written, id: string) => {
    const parameter = parameters.find((each) => each.id === id);
    return parameter ? valuesText(parameter, values[id] ?? parameter.startsAs) : '…';
  });
}

/** The title with ids exchanged. */
export const titleWithIds = (kept: string, idOf: (id: string) => string): string =>
  kept.replace(BY_ID, (_written, id: string) => `:{${idOf(id)}}`);
