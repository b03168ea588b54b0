import type { CheckedTrail, TextStep } from '@cendra/core';
import { asTextStep } from '@cendra/core';

/** The steps of a trail whose texts are looked through for findings. */
export const textsIn = ({ steps }: Pick<CheckedTrail, 'steps'>): readonly TextStep[] =>
  steps.flatMap(({ step }) => {
    const text = asTextStep(step);
    return text && !text.off ? [text] : [];
  });
