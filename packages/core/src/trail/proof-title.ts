import type { GivenValues } from '../parameters';
import { filledWords } from '../parameters';
import type { Definition } from './definition';
import { valuesText } from './sentence';

/** A title or note of the proof that was written by hand, as it is read with the values in use. */
export function shownTitle(kept: string, { parameters }: Pick<Definition, 'parameters'>, values: GivenValues): string {
  return filledWords(kept, (id) => {
    const parameter = parameters.find((each) => each.id === id);
    return parameter ? valuesText(parameter, values[id] ?? parameter.startsAs) : '…';
  });
}
