import type { DescribedText, Edit, Problem, SqlStep } from '@cendra/core';
import { takeTextOver } from '@cendra/core';
import type { DatasetBody, Person } from './cendra';
import { unique } from './cluster';
import { edit } from './datasets';

export interface DescribedBody extends DescribedText {
  readonly problems: readonly Problem[];
  readonly detail?: string;
}

/** What the source says of a text, with parameters of a dataset. */
export const described = (person: Person, source: string, text: string, parameters: readonly object[] = []): Promise<DescribedBody> =>
  person.ask<DescribedBody>('POST', `/sources/${source}/texts/describe`, { text, parameters }).then(({ body }) => body);

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
  const answer = await described(person, source, text);
  if (answer.problems.length > 0) throw new Error(answer.problems.map((each) => each.message).join(' '));
  let minted = 0;
  const prefix = unique('id');
  const { edits } = takeTextOver(made.definition, sqlOf(made), text, answer, () => `${prefix}-${minted++}`);
  const taken = await edit(person, made, ...edits);
  const more = also(taken);
  return more.length > 0 ? edit(person, taken, ...more) : taken;
}
