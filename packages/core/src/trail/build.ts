import type { Condition } from '../criteria';
import { operatorByWord } from '../criteria';
import type { Field } from '../fields';
import type { Parameter } from '../parameters';
import { parameterTypeFor } from '../parameters';
import type { Step } from '../steps';
import type { Definition } from './definition';
import type { Edit } from './edits';

/** Gives a new id; the caller brings the randomness, so that building edits stays deterministic in tests. */
export type Mint = () => string;

/** Adds a step behind another; steps that used the other now use the new one. */
export function addStepAfter(definition: Definition, after: string | null, step: Step): Edit {
  const heirs = after === null ? [] : definition.steps.filter((each) => each.inputs.includes(after)).map((each) => each.id);
  return { kind: 'add step', step, after, heirs };
}

/** Removes a step; steps that used it use its first input instead. Undefined when a step would be left without rows. */
export function removeStepEdit(definition: Definition, stepId: string): Edit | undefined {
  const step = definition.steps.find((each) => each.id === stepId);
  if (!step) return undefined;
  const heirs = definition.steps.filter((each) => each.inputs.includes(stepId)).map((each) => each.id);
  const [after = null] = step.inputs;
  return heirs.length > 0 && after === null ? undefined : { kind: 'remove step', step, after, heirs };
}

export function blankCondition(mint: Mint): Condition {
  return { id: mint(), kind: 'condition', off: false, field: '', operator: '', operands: [], andNulls: false };
}

export function criteriaStep(mint: Mint, input: string): Step {
  return { id: mint(), kind: 'criteria', name: '', off: false, inputs: [input], head: 'every one', clauses: [blankCondition(mint)] };
}

export function calculateStep(mint: Mint, input: string): Step {
  const field = { id: mint(), name: '', expression: { text: '', refs: [] } };
  return { id: mint(), kind: 'calculate', name: '', off: false, inputs: [input], fields: [field] };
}

/** A new parameter for a condition: type from the field it meets, several or a range from the operator. */
export function parameterFor(mint: Mint, name: string, field: Field, operatorWord: string): Parameter {
  const takes = operatorByWord(operatorWord)?.takes ?? 'one';
  return {
    id: mint(),
    name,
    type: parameterTypeFor(field.type),
    takes: takes === 'none' ? 'one' : takes,
    leftBlank: 'condition is off',
    startsAs: [],
    hint: '',
  };
}
