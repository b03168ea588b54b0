import type { DescribedPart, DescribedText, Parameter } from '@cendra/core';
import { describedPart } from '@cendra/core';
import type { api } from '../../api';
import type { Failure } from '../../api/problem';
import { failureOf } from '../../api/problem';

type Describe = ReturnType<typeof api.useTextsDescribeMutation>[0];

/** A part of a text as its source describes it, or why it does not. */
export async function describePart(
  describe: Describe,
  source: string,
  text: string,
  parameters: readonly Parameter[],
): Promise<{ readonly part: DescribedPart } | { readonly wrong: Failure }> {
  const told = parameters.map(({ name, type }) => ({ name, type }));
  const { data, error } = await describe({ id: source, describeTextDto: { text, parameters: told } });
  const failed = failureOf(error);
  if (failed) return { wrong: failed };
  const answer = data as unknown as DescribedText & { readonly problems: Failure['problems'] };
  return answer.problems.length > 0 ? { wrong: { status: 422, problems: answer.problems } } : { part: describedPart(text, answer) };
}
