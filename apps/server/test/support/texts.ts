import type { DescribedText, Edit, Problem, ScriptStep, SqlStep, TextStepParts } from '@cendra/core';
import { takeTextOver } from '@cendra/core';
import type { DatasetBody, Person } from './cendra';
import { unique } from './cluster';
import { edit } from './datasets';

export interface DescribedBody extends DescribedText {
  readonly problems: readonly Problem[];
  readonly detail?: string;
}

/** What the source says of a text, or of a script, with parameters of a dataset. */
export const described = (
  person: Person,
  source: string,
  text: string,
  parameters: readonly object[] = [],
  script = false,
  before: readonly string[] = [],
): Promise<DescribedBody> =>
  person.ask<DescribedBody>('POST', `/sources/${source}/texts/describe`, { text, parameters, script, before }).then(({ body }) => body);

export function sqlOf(dataset: Pick<DatasetBody, 'definition'>): SqlStep {
  const found = dataset.definition.steps.find((each) => each.kind === 'sql');
  if (found?.kind !== 'sql') throw new Error('the dataset has no text');
  return found;
}

/** A new dataset of one text, described and taken over as the bench does; `also` changes what came of it. */
export async function datasetOfText(
  person: Person,
  source: string,
  text: string,
  also: (dataset: DatasetBody) => readonly Edit[] = () => [],
): Promise<DatasetBody> {
  const made = await person.post<DatasetBody>('/datasets', { source, text });
  return withTaken(person, made, sqlOf(made), await described(person, source, text), also);
}

export function scriptOf(dataset: Pick<DatasetBody, 'definition'>): ScriptStep {
  const found = dataset.definition.steps.find((each) => each.kind === 'script');
  if (found?.kind !== 'script') throw new Error('the dataset has no script');
  return found;
}

/** A new dataset of one script. */
export async function datasetOfScript(
  person: Person,
  source: string,
  text: string,
  also: (dataset: DatasetBody) => readonly Edit[] = () => [],
): Promise<DatasetBody> {
  const made = await person.post<DatasetBody>('/datasets', { source, text, script: true });
  return withTaken(person, made, scriptOf(made), await described(person, source, text, [], true), also);
}

async function withTaken(
  person: Person,
  made: DatasetBody,
  step: TextStepParts,
  answer: DescribedBody,
  also: (dataset: DatasetBody) => readonly Edit[],
): Promise<DatasetBody> {
  if (answer.problems.length > 0) throw new Error(answer.problems.map((each) => each.message).join(' '));
  let minted = 0;
  const prefix = unique('id');
  const { edits } = takeTextOver(made.definition, step, step.sql.text, answer, () => `${prefix}-${minted++}`);
  const taken = await edit(person, made, ...edits);
  const more = also(taken);
  return more.length > 0 ? edit(person, taken, ...more) : taken;
}
