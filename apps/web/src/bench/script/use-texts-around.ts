import { useMemo } from 'react';
import type { ScriptsAround, TextStep } from '@cendra/core';
import { ofKind, textsAround } from '@cendra/core';
import type { Bench } from '../use-bench';

/** The texts of scripts that run in a script's session before it and behind it; the same for as long as they are. Undefined of any other text. */
export function useTextsAround({ trail }: Bench, step: TextStep): ScriptsAround | undefined {
  const script = ofKind('script', step);
  const told = script && JSON.stringify(textsAround(trail.definition, script));
  return useMemo(() => (told === undefined ? undefined : (JSON.parse(told) as ScriptsAround)), [told]);
}
