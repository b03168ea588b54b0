import { useEffect, useState } from 'react';
import type { DescribedPart, DescribedText, SaidText, SqlStep, TextToSay } from '@cendra/core';
import { describedPart, kindOf } from '@cendra/core';
import { api } from '../../api';
import type { Failure } from '../../api/problem';
import { failureOf } from '../../api/problem';
import type { Bench } from '../use-bench';
import type { Known } from './completion';
import { reading } from './reading';

/** Parts of a text that stay SQL are described one after the other; so many at most. */
const MOST_ASKED = 20;

/** A text in steps, as it is now; the source is asked what parts of it give that stay SQL. Undefined until that is known. */
export function useSaid(
  { trail }: Bench,
  step: SqlStep,
  { described: tables }: Known,
): { readonly said: SaidText | undefined; readonly failure: Failure | undefined } {
  const [describe] = api.useTextsDescribeMutation();
  const [said, setSaid] = useState<SaidText>();
  const [failure, setFailure] = useState<Failure>();
  const { parameters, calendar, steps } = trail.definition;
  useEffect(() => {
    let current = true;
    const say = async () => {
      const described: DescribedPart[] = [];
      const others = steps.filter((each) => each.id !== step.id).flatMap((each) => kindOf(each).uses(each, parameters));
      const usedElsewhere = others.flatMap(({ kind, id }) => (kind === 'parameter' ? [id] : []));
      for (let asked = 0; asked < MOST_ASKED && current; asked++) {
        const found = await reading().inSteps({
          step,
          parameters,
          calendar,
          tables: tables as unknown as TextToSay['tables'],
          described,
          usedElsewhere,
        });
        if (found.kind !== 'asks') return current && setSaid(found);
        const told = parameters.map(({ name, type }) => ({ name, type }));
        const { data, error } = await describe({ id: step.source, describeTextDto: { text: found.text, parameters: told } });
        const answer = data as unknown as (DescribedText & { readonly problems: Failure['problems'] }) | undefined;
        const failed = failureOf(error) ?? (answer && answer.problems.length > 0 ? { status: 422, problems: answer.problems } : undefined);
        if (failed || !answer) return current && setFailure(failed);
        described.push(describedPart(found.text, answer));
      }
      return undefined;
    };
    // A text that is too much for the worker is told as one that has no steps.
    say().catch(() => current && setSaid({ kind: 'unsaid', stays: [{ words: step.sql.text, because: 'It could not be taken apart.' }] }));
    return () => {
      current = false;
    };
  }, [step, steps, parameters, calendar, tables, describe]);
  return { said, failure };
}
