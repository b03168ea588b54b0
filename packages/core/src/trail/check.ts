import type { Schema } from '../fields';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Catalogue, Step } from '../steps';
import { kindOf } from '../steps';
import { parameterProblems } from './check-parameters';
import type { Definition } from './definition';
import { handedOverProblems } from './handed-over';

export interface CheckedStep {
  readonly step: Step;
  /** Its name by hand, or its sentence. */
  readonly title: string;
  readonly schema: Schema;
  readonly problems: readonly Problem[];
  /** It or a step it stands on has an error, so it cannot run. */
  readonly blocked: boolean;
}

export interface CheckedTrail {
  readonly definition: Definition;
  readonly steps: readonly CheckedStep[];
  readonly problems: readonly Problem[];
}

const NOTHING_KNOWN: Catalogue = () => undefined;

/** Every step with its output fields and its problems, without running anything. Never throws for a wrong definition. */
export function checkTrail(definition: Definition, catalogue: Catalogue = NOTHING_KNOWN): CheckedTrail {
  const done = new Map<string, CheckedStep>();
  const context = { parameters: definition.parameters, calendar: definition.calendar, catalogue };
  for (const step of definition.steps) {
    const inputs = step.inputs.flatMap((id) => done.get(id) ?? []);
    const schemas = inputs.map((each) => each.schema);
    const kind = kindOf(step);
    const through = step.off && schemas[0];
    const result = through ? { schema: through, problems: [] } : kind.check(step, schemas, context);
    const blocked = inputs.some((each) => each.blocked) || result.problems.some((each) => each.severity === 'error');
    done.set(step.id, {
      step,
      title: step.name || kind.sentence(step, schemas, context),
      schema: result.schema,
      problems: result.problems,
      blocked,
    });
  }
  const steps = [...done.values()];
  return { definition, steps, problems: [...steps.flatMap((each) => each.problems), ...datasetProblems(definition, steps)] };
}

export function checkedStep(trail: CheckedTrail, id: string): CheckedStep | undefined {
  return trail.steps.find((each) => each.step.id === id);
}

function datasetProblems(definition: Definition, steps: readonly CheckedStep[]): readonly Problem[] {
  const parameters = parameterProblems(definition, steps);
  const last = steps[steps.length - 1];
  const nothing = last && last.schema.fields.every((each) => each.forUseOnly);
  const handed = handedOverProblems({ definition, steps });
  if (!nothing) return [...parameters, ...handed];
  const expected = 'at least one field taken in the table step';
  return [
    ...parameters,
    ...handed,
    { ...problem('nothing-taken', 'No field is chosen yet.', { step: last.step.id }, expected), severity: 'hint' },
  ];
}

/** The step and all steps it stands on, in the order of the trail. */
export function subTrail(definition: Definition, id: string): readonly Step[] {
  const wanted = new Set([id]);
  const kept: Step[] = [];
  for (const step of [...definition.steps].reverse()) {
    if (!wanted.has(step.id)) continue;
    step.inputs.forEach((input) => wanted.add(input));
    kept.unshift(step);
  }
  return kept;
}
