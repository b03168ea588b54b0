import type { Edit, LetBe, Problem, TextStep } from '@cendra/core';

/** So many characters of the words a finding is about are kept with it. */
const LONGEST = 2_000;

const wordsAt = (text: string, { place: { position } }: Problem) => text.slice(position?.from, position?.to).slice(0, LONGEST);

/** Whether a finding is let be: it is the same one, at the same words. */
export const isLetBe = ({ letBe }: TextStep, text: string, found: Problem): boolean =>
  letBe?.some(({ code, words }) => code === found.code && words === wordsAt(text, found)) === true;

export const letBeEdit = ({ id, letBe }: TextStep, to: readonly LetBe[]): Edit => ({
  kind: 'set step',
  step: id,
  property: 'letBe',
  from: letBe,
  to: to.length > 0 ? to : undefined,
});

/** Lets a finding be, with the reason why. */
export const lettingBe = (step: TextStep, text: string, found: Problem, reason: string): Edit =>
  letBeEdit(step, [...(step.letBe ?? []), { code: found.code, words: wordsAt(text, found), reason }]);
