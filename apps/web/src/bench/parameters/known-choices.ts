import type { Parameter } from '@cendra/core';
import type { KnownQuestion } from '../values/list-dialog';

/** Which of some values are among a parameter's choices, where those are looked up. */
export function knownChoices({ id, choices }: Parameter): KnownQuestion | undefined {
  return choices && choices.from !== 'typed' ? (values) => ({ kind: 'known choices', parameter: id, values }) : undefined;
}
