import { useEffect } from 'react';
import type { TextStep } from '@cendra/core';
import type { Bench } from '../use-bench';
import { useFoundInText } from './use-found-in-text';

interface CountInTextProps {
  readonly bench: Bench;
  readonly step: TextStep;
  readonly onCount: (step: string, count: number) => void;
}

/** Says how much is found in the text of a step, and shows nothing: reading it is large, so this is loaded where there is one. */
export default function CountInText({ bench, step, onCount }: CountInTextProps) {
  const count = useFoundInText(bench, step)?.length;
  useEffect(() => {
    if (count !== undefined) onCount(step.id, count);
  }, [count, step.id, onCount]);
  return null;
}
