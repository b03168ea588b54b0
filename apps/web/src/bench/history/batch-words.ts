import type { Definition } from '@cendra/core';
import { editSentence } from '@cendra/core';
import type { Batch } from '../bench-slice';

/** What a batch of edits did, in a few words: its first edit, and how many more came with it. */
export function batchWords({ edits, restores }: Batch, definition: Definition): string {
  if (restores !== undefined) return `went back to revision ${restores}`;
  const [first, ...more] = edits;
  if (!first) return '';
  const sentence = editSentence(first, definition);
  return more.length === 0 ? sentence : `${sentence}, and ${more.length} more`;
}
