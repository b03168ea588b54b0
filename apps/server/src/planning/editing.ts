import type { Definition, Edit } from '@cendra/core';
import { applyEdit, applyEdits, beginning, datasetName, editSentence, editShape, refuse } from '@cendra/core';

export interface Edited {
  readonly edits: readonly Edit[];
  readonly after: Definition;
  /** What the dataset is called now. */
  readonly name: string;
  /** What was done, in words. */
  readonly sentence: string;
}

const MOST_SAID = 2_000;

/** Reads edits as they were received and applies them. Throws a ProblemError where one is unreadable or does not fit. */
export function edited(definition: Definition, given: readonly object[]): Edited {
  const edits = given.map(readEdit);
  const after = applyEdits(definition, edits);
  let current = definition;
  const sentences = edits.map((edit) => {
    const sentence = editSentence(edit, current);
    current = applyEdit(current, edit);
    return sentence;
  });
  return { edits, after, name: datasetName(after), sentence: beginning(sentences.join('; '), MOST_SAID) };
}

function readEdit(given: object, index: number): Edit {
  const read = editShape.safeParse(given);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  const pointer = `/edits/${index}${issue?.path.map((part) => `/${String(part)}`).join('') ?? ''}`;
  return refuse('edit-unreadable', 'One of the edits is not as it should be.', { pointer }, issue?.message);
}
