import { isMisnamed } from '../expressions';
import type { Step } from '../steps';
import { kindOf } from '../steps';
import type { Definition } from './definition';

/**
 * The step with its mentions written as what they mean is called now. An expression typed against an older
 * state, in which a parameter or field still had another name, would read wrongly otherwise.
 */
export function inCurrentNames(step: Step, definition: Pick<Definition, 'steps' | 'parameters'>): Step {
  const kind = kindOf(step);
  return kind.uses(step, definition.parameters).reduce((done: Step, { kind: what, id }) => {
    const name = what === 'parameter' ? definition.parameters.find((each) => each.id === id)?.name : nameOfField(definition.steps, id);
    return name === undefined || !kind.written(done).some((text) => isMisnamed(text, what, id, name))
      ? done
      : kind.renamed(done, what, id, name);
  }, step);
}

function nameOfField(steps: readonly Step[], id: string): string | undefined {
  for (const step of steps) {
    const name = kindOf(step).fieldName(step, id);
    if (name !== undefined) return name;
  }
  return undefined;
}
