import { Budget } from '../expressions';
import type { FieldId } from '../fields';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Arriving, Catalogue, CheckContext, CheckedStep, Step } from '../steps';
import { kindOf, NOTHING_ARRIVES, NOTHING_KNOWN } from '../steps';
import { parameterProblems } from './check-parameters';
import type { CheckedTrail } from './checked-trail';
import { resultStep } from './checked-trail';
import type { Definition } from './definition';
import { usersOf } from './repoint';
import { reportFieldProblems } from './report-fields';

/** Every step with its output fields and its problems, without running anything. Never throws for a wrong definition. */
export function checkTrail(definition: Definition, catalogue: Catalogue = NOTHING_KNOWN): CheckedTrail {
  const done = new Map<string, CheckedStep>();
  const context = {
    parameters: definition.parameters,
    calendar: definition.calendar,
    catalogue,
    budget: new Budget(),
    sheet: definition.sheet,
    used: (field: FieldId) => usersOf({ ...definition, steps: definition.steps.filter((each) => !each.off) }, new Set([field])).length > 0,
  };
  for (const step of definition.steps) done.set(step.id, checkStep(step, done, context));
  const trail = { definition, steps: [...done.values()], catalogue };
  return { ...trail, problems: [...trail.steps.flatMap((each) => each.problems), ...datasetProblems(trail)] };
}

function checkStep(step: Step, done: ReadonlyMap<string, CheckedStep>, context: CheckContext): CheckedStep {
  const kind = kindOf(step);
  const inputs = step.inputs.map((id) => (id === null ? undefined : done.get(id)));
  const slots = Math.max(kind.inputs.least, inputs.length);
  const arriving = Array.from({ length: slots }, (_each, slot): Arriving => {
    const { schema, grain, session } = inputs[slot] ?? NOTHING_ARRIVES;
    return { schema, grain, ...(session ? { session } : {}) };
  });
  const found = kind.check(step, arriving, context);
  const missing = Array.from({ length: slots }, (_each, slot) => slot).filter((slot) => !inputs[slot]);
  const problems = problemsOf(step, missing, found.problems);
  return {
    step,
    title: step.name || kind.sentence(step, arriving, context),
    arriving,
    schema: found.schema,
    grain: step.off ? grainWhenOff(step, arriving) : found.grain,
    ...(found.session ? { session: found.session } : {}),
    problems,
    checked: found.checked,
    blocked: inputs.some((each) => each?.blocked) || problems.some((each) => each.severity === 'error'),
  };
}

/** What is wrong with a step whose slots are not all filled is that; the rest follows from it. A step that is off needs its first input only. */
function problemsOf(step: Step, missing: readonly number[], found: readonly Problem[]): readonly Problem[] {
  const { inputs } = kindOf(step);
  const needed = step.off && inputs.least > 0 ? missing.filter((slot) => slot === 0) : missing;
  const empty = needed.map((slot) =>
    problem(
      'input-missing',
      `Nothing comes in as the ${inputs.role(slot)} of this step.`,
      { step: step.id, input: slot },
      'a step whose rows it takes',
    ),
  );
  if (empty.length > 0) return empty;
  return step.off ? [] : found;
}

/** The rows of a step that is off are those of its first input, told apart as those are. */
function grainWhenOff(step: Step, [first = NOTHING_ARRIVES]: readonly Arriving[]) {
  const { grain } = first;
  const keys = grain.keys.flatMap((key) => {
    const ids = key.flatMap((id) => kindOf(step).carries(step, 0, id) ?? []);
    return ids.length === key.length ? [ids] : [];
  });
  return { ...grain, keys };
}

function datasetProblems(trail: Pick<CheckedTrail, 'definition' | 'steps'>): readonly Problem[] {
  const handedOver = resultStep(trail);
  const nothing = handedOver?.schema.fields.every((each) => each.forUseOnly) === true;
  const hint = {
    ...problem('nothing-taken', 'No field is chosen yet.', { step: handedOver?.step.id ?? '' }, NOTHING_TAKEN),
    severity: 'hint' as const,
  };
  return [...parameterProblems(trail), ...reportFieldProblems(trail), ...(nothing ? [hint] : [])];
}

const NOTHING_TAKEN = 'at least one field taken in the table step';
