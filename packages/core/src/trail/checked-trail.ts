import type { Schema } from '../fields';
import type { Problem } from '../problem';
import type { CheckedStep } from '../steps';
import { NOTHING_ARRIVES } from '../steps';
import type { Definition } from './definition';

export interface CheckedTrail {
  readonly definition: Definition;
  /** In the order of the definition: each behind the steps it takes rows from. */
  readonly steps: readonly CheckedStep[];
  readonly problems: readonly Problem[];
}

export function checkedStep(trail: Pick<CheckedTrail, 'steps'>, id: string): CheckedStep | undefined {
  return trail.steps.find((each) => each.step.id === id);
}

/** The step that is handed over; undefined while there is none. */
export function resultStep({ definition, steps }: Pick<CheckedTrail, 'definition' | 'steps'>): CheckedStep | undefined {
  return definition.result === null ? undefined : checkedStep({ steps }, definition.result);
}

/** The fields that arrive in a step's first slot. */
export function arrivingAt(trail: Pick<CheckedTrail, 'steps'>, id: string): Schema {
  return checkedStep(trail, id)?.arriving[0]?.schema ?? NOTHING_ARRIVES.schema;
}
