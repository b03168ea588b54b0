import type { Parameter } from './parameter';

/**
 * Words written by hand with parameters in them. They stand there by their ids, as `:{id}`, so that the words say the same
 * whatever parameters are called; they are typed and read with `:name`.
 */
const BY_ID = /:\{([^{}]+)\}/g;
const BY_NAME = /:([\p{L}_][\p{L}\p{N}_]*)/gu;

type Named = readonly Pick<Parameter, 'id' | 'name'>[];

/** As they are kept, of what was typed: `:name` of a parameter there is becomes its id, anything else stays as it is. */
export function keptWords(typed: string, parameters: Named): string {
  return typed.replace(BY_NAME, (written, name: string) => {
    const found = parameters.find((each) => each.name === name);
    return found ? `:{${found.id}}` : written;
  });
}

/** As they are typed, of what is kept. A parameter that is gone has no name any more. */
export const typedWords = (kept: string, parameters: Named): string =>
  filledWords(kept, (id) => `:${parameters.find((each) => each.id === id)?.name ?? GONE}`);

const GONE = 'gone';

/** Names in words as they are kept that are of no parameter. */
export function unknownInWords(kept: string): readonly string[] {
  const names = [...kept.matchAll(BY_NAME)].map(([, name = '']) => name);
  return [...new Set(names)];
}

/** The parameters that stand in words, by their ids. */
export const parametersInWords = (kept: string): readonly string[] => [...kept.matchAll(BY_ID)].flatMap(([, id = '']) => id);

/** The parameter the words are, where they are nothing else. */
export function parameterAlone(kept: string): string | undefined {
  const [id] = parametersInWords(kept);
  return id !== undefined && kept === `:{${id}}` ? id : undefined;
}

/** The words with something in the place of each parameter. */
export const filledWords = (kept: string, instead: (id: string) => string): string =>
  kept.replace(BY_ID, (_written, id: string) => instead(id));

/** The words with ids exchanged. */
export const wordsWithIds = (kept: string, idOf: (id: string) => string): string => filledWords(kept, (id) => `:{${idOf(id)}}`);
