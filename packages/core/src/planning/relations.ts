import type { Binding } from '../parameters';
import { refuse } from '../problem';
import { kindOf } from '../steps';
import type { Column, Relation } from '../sql';
import type { CheckedTrail } from '../trail';
import { checkedStep, relationWhenOff, subTrail } from '../trail';

/** The relations of a trail's steps with one set of values, made once: a step several others stand on is one node. */
const made = new WeakMap<CheckedTrail, WeakMap<Binding, Map<string, Relation>>>();

/** The relation the rows after a step stand for, everything before it merged in. Throws a ProblemError where the step is gone or cannot run. */
export function relationAfter(trail: CheckedTrail, stepId: string, binding: Binding): Relation {
  const target = checkedStep(trail, stepId);
  if (!target) refuse('step-gone', 'This step is not in the dataset any more.', { step: stepId });
  if (target.blocked) refuse('step-blocked', 'This step cannot run before its errors are mended.', { step: stepId });
  const done = doneFor(trail, binding);
  for (const { id } of subTrail(trail.definition, stepId)) {
    const checked = checkedStep(trail, id);
    if (done.has(id) || !checked) continue;
    const { step } = checked;
    const inputs = step.inputs.flatMap((each) => (each === null ? [] : (done.get(each) ?? [])));
    const [first] = inputs;
    done.set(id, step.off && first ? relationWhenOff(checked, first) : kindOf(step).relation(checked, inputs, binding));
  }
  const relation = done.get(stepId);
  if (!relation) throw new RangeError('a step without a relation');
  return relation;
}

/** The relation that arrives in one of a step's slots; refused where nothing does. */
export function relationArriving(trail: CheckedTrail, stepId: string, binding: Binding, slot = 0): Relation {
  const input = checkedStep(trail, stepId)?.step.inputs[slot];
  if (typeof input !== 'string') return refuse('step-gone', 'Nothing arrives at this step any more.', { step: stepId });
  return relationAfter(trail, input, binding);
}

function doneFor(trail: CheckedTrail, binding: Binding): Map<string, Relation> {
  const ofTrail = made.get(trail) ?? new WeakMap<Binding, Map<string, Relation>>();
  made.set(trail, ofTrail);
  const done = ofTrail.get(binding) ?? new Map<string, Relation>();
  ofTrail.set(binding, done);
  return done;
}

/** The columns a step puts out, in their order; fields for use only are not among them. */
export function outputColumns(trail: CheckedTrail, stepId: string): readonly Column[] {
  const fields = checkedStep(trail, stepId)?.schema.fields ?? [];
  return fields.filter((each) => !each.forUseOnly).map(({ id, name, type }) => ({ id, name, type }));
}
