import { useEffect, useState } from 'react';
import type { DescribedPart, SaidText, SqlStep, TextToSay } from '@cendra/core';
import { kindOf } from '@cendra/core';
import { api } from '../../api';
import type { Failure } from '../../api/problem';
import type { Bench } from '../use-bench';
import type { Known } from './completion';
import { describePart } from './describe-part';
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
        if (!current) return undefined;
        setFailure(undefined);
        if (found.kind !== 'asks') return setSaid(found);
        const answer = await describePart(describe, step.source, found.text, parameters);
        if ('wrong' in answer) return current && setFailure(answer.wrong);
        described.push(answer.part);
      }
      return current && setSaid({ kind: 'unsaid', stays: [{ words: step.sql.text, because: 'Too many of its parts have no step.' }] });
    };
    // A text that is too much for the worker is told as one that has no steps.
    say().catch(() => current && setSaid({ kind: 'unsaid', stays: [{ words: step.sql.text, because: 'It could not be taken apart.' }] }));
    return () => {
      current = false;
    };
  }, [step, steps, parameters, calendar, tables, describe]);
  return { said, failure };
}
