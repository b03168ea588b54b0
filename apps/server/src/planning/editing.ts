import type { Definition, Edit } from '@cendra/core';
import { applyEdit, applyEdits, beginning, editSentence } from '@cendra/core';

export interface Edited {
  readonly after: Definition;
  /** What was done, in words. */
  readonly sentence: string;
}

const MOST_SAID = 2_000;

/** Throws a ProblemError where an edit does not fit. */
export function edited(definition: Definition, edits: readonly Edit[]): Edited {
  const after = applyEdits(definition, edits);
  let current = definition;
  const sentences = edits.map((edit) => {
    const sentence = editSentence(edit, current);
    current = applyEdit(current, edit);
    return sentence;
  });
  return { after, sentence: beginning(sentences.join('; '), MOST_SAID) };
}
