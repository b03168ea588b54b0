import type { Schema } from '../fields';
import type { Problem } from '../problem';
import type { Catalogue, CheckedStep } from '../steps';
import { NOTHING_ARRIVES } from '../steps';
import type { Definition } from './definition';

export interface CheckedTrail {
  readonly definition: Definition;
  /** In the order of the definition: each behind the steps it takes rows from. */
  readonly steps: readonly CheckedStep[];
  readonly problems: readonly Problem[];
  /** What it was checked with. */
  readonly catalogue: Catalogue;
}

/** A step without its typed parts. */
export type OutlinedStep = Omit<CheckedStep, 'checked'>;

/** A checked trail as far as most look at it: without the typed parts of its steps, which can be large. */
export interface TrailOutline {
  readonly definition: Definition;
  readonly steps: readonly OutlinedStep[];
  readonly problems: readonly Problem[];
}

export function outlineOf({ definition, steps, problems }: CheckedTrail): TrailOutline {
  return { definition, steps: steps.map(({ checked: _, ...each }) => each), problems };
}

export function checkedStep<S extends OutlinedStep>(trail: { readonly steps: readonly S[] }, id: string): S | undefined {
  return trail.steps.find((each) => each.step.id === id);
}

/** The step that is handed over; undefined while there is none. */
export function resultStep<S extends OutlinedStep>({
  definition,
  steps,
}: Pick<TrailOutline, 'definition'> & { readonly steps: readonly S[] }): S | undefined {
  return definition.result === null ? undefined : checkedStep({ steps }, definition.result);
}

/** The fields that arrive in a step's first slot. */
export function arrivingAt(trail: Pick<TrailOutline, 'steps'>, id: string): Schema {
  return checkedStep(trail, id)?.arriving[0]?.schema ?? NOTHING_ARRIVES.schema;
}
