import type { Definition, Edit, Parameter, Step } from '@cendra/core';
import { addParameter, applyEdits, addStepAfter } from '@cendra/core';
import type { DatasetBody, Person } from './cendra';
import { unique } from './cluster';

/** The demo's source, as the person sees it. */
export async function demoSource(person: Person): Promise<string> {
  const sources = await person.get<{ id: string; name: string }[]>('/sources');
  const found = sources.find((each) => each.name === 'Cooperative database');
  if (!found) throw new Error('the demo source is missing');
  return found.id;
}

/** A new dataset of one table with the named fields taken (all when none are named). */
export async function datasetOf(
  person: Person,
  source: string,
  table: string,
  schema = 'coop',
  taken?: readonly string[],
): Promise<DatasetBody> {
  const made = await person.post<DatasetBody>('/datasets', { source, schema, table });
  const step = tableOf(made.definition);
  const ids = step.fields.filter((each) => !taken || taken.includes(each.column)).map((each) => each.id);
  return edit(person, made, { kind: 'set step', step: step.id, property: 'taken', from: [], to: ids });
}

export function tableOf(definition: Definition): Extract<Step, { kind: 'table' }> {
  const [step] = definition.steps;
  if (step?.kind !== 'table') throw new Error('the first step is no table');
  return step;
}

export function fieldOf(definition: Definition, column: string): string {
  const found = tableOf(definition).fields.find((each) => each.column === column);
  if (!found) throw new Error(`there is no column ${column}`);
  return found.id;
}

export async function edit(person: Person, dataset: DatasetBody, ...edits: Edit[]): Promise<DatasetBody> {
  const sent = { editId: unique('edit'), baseRevision: dataset.revision, edits };
  const answer = await person.post<DatasetBody & { definition: Definition | null }>(`/datasets/${dataset.id}/edits`, sent);
  // Where nobody else saved meanwhile, the server knows that the sender has it.
  return { ...answer, definition: answer.definition ?? applyEdits(dataset.definition, edits) };
}

/** Criteria by a written condition behind the last step. */
export function writtenCriteria(definition: Definition, text: string): Edit {
  const after = definition.steps[definition.steps.length - 1]?.id ?? '';
  return addStepAfter(definition, after, {
    id: unique('step'),
    kind: 'criteria',
    name: '',
    off: false,
    inputs: [after],
    head: 'every one',
    clauses: [{ id: unique('clause'), kind: 'expression', off: false, expression: { text, refs: [] } }],
  });
}

export const parameter = (given: Partial<Parameter> & { name: string }): Parameter => ({
  id: `p-${given.name}`,
  type: 'decimal',
  takes: 'one',
  leftBlank: 'must be filled',
  startsAs: [],
  hint: '',
  ...given,
});

/** Criteria of one condition on a field, asking with a parameter. */
export function askingWith(definition: Definition, column: string, operator: string, asked: Parameter): readonly Edit[] {
  const after = definition.steps[definition.steps.length - 1]?.id ?? '';
  const clause = {
    id: unique('clause'),
    kind: 'condition' as const,
    off: false,
    field: fieldOf(definition, column),
    operator,
    operands: [{ kind: 'parameter' as const, id: asked.id }],
    andNulls: false,
  };
  return [
    addParameter(definition, asked),
    addStepAfter(definition, after, {
      id: unique('step'),
      kind: 'criteria',
      name: '',
      off: false,
      inputs: [after],
      head: 'every one',
      clauses: [clause],
    }),
  ];
}
