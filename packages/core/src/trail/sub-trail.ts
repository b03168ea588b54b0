import type { Step } from '../steps';
import type { Definition } from './definition';

/** The step and all steps it stands on, in the order of the definition. */
export function subTrail({ steps }: Pick<Definition, 'steps'>, id: string): readonly Step[] {
  const wanted = new Set([id]);
  const kept: Step[] = [];
  for (const step of [...steps].reverse()) {
    if (!wanted.has(step.id)) continue;
    for (const input of step.inputs) if (input !== null) wanted.add(input);
    kept.unshift(step);
  }
  return kept;
}

/** The step and all steps that stand on it, in the order of the definition. */
export function standingOn({ steps }: Pick<Definition, 'steps'>, id: string): readonly Step[] {
  const found = new Set([id]);
  return steps.filter((step) => {
    const stands = step.id === id || step.inputs.some((each) => each !== null && found.has(each));
    if (stands) found.add(step.id);
    return stands;
  });
}
