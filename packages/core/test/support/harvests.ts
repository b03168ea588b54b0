import type { Definition, Parameter, Step } from '../../src';
import { bindValues, decimal, emptyDefinition, text, whole } from '../../src';

/** A small dataset of the demo's scenario: harvests of at least `:min_kilos`. */
export const table: Step = {
  id: 't',
  kind: 'table',
  name: '',
  off: false,
  inputs: [],
  source: 's',
  schema: 'coop',
  table: 'harvests',
  taken: ['id', 'kilos'],
  keys: [['id']],
  fields: [
    { id: 'id', column: 'id', sourceType: 'integer', type: whole, role: 'key', looseText: false },
    { id: 'kilos', column: 'kilos', sourceType: 'numeric(8,2)', type: decimal(8, 2), role: 'measure', looseText: false },
    { id: 'grade', column: 'grade', sourceType: 'text', type: text, role: 'attribute', looseText: false },
  ],
};
export const minKilos: Parameter = {
  id: 'p',
  name: 'min_kilos',
  type: 'decimal',
  takes: 'one',
  leftBlank: 'condition is off',
  startsAs: ['5'],
  hint: '',
};
export const criteria = (id: string, input: string, written: string): Step => ({
  id,
  kind: 'criteria',
  name: '',
  off: false,
  inputs: [input],
  head: 'every one',
  clauses: [{ id: `${id}-1`, kind: 'expression', off: false, expression: { text: written, refs: [] } }],
});
export const definition: Definition = {
  ...emptyDefinition('Harvests'),
  steps: [table, criteria('c', 't', 'kilos >= :min_kilos')],
  result: 'c',
  parameters: [minKilos],
};
/** The dataset with its last step handed over. */
export const ending = (given: Definition): Definition => ({ ...given, result: given.steps.at(-1)?.id ?? null });
export const bind = (given: Record<string, string[]> = {}) => bindValues(definition.parameters, given, 0n);
