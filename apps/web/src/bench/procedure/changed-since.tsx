import { useState } from 'react';
import type { DescribedRoutine, Problem, ProcedureStep } from '@cendra/core';
import { checkedStep, givenNow, takeCallOver, usersOf } from '@cendra/core';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { Button } from '../../ui/button';
import { FailureNotice, ProblemLine } from '../../ui/notice';
import { mint } from '../mint';
import type { Bench } from '../use-bench';

interface ChangedSinceProps {
  readonly bench: Bench;
  readonly step: ProcedureStep;
  readonly problems: readonly Problem[];
}

/** What is other in the function than when the step was made, and taking that over once what it breaks was read. */
export function ChangedSince({ bench, step, problems }: ChangedSinceProps) {
  const [describe, describing] = api.useRoutinesDescribeMutation();
  const [over, setOver] = useState<ReturnType<typeof takeCallOver>>();
  const { steps, parameters } = bench.trail.definition;
  const look = async () => {
    const columns = step.columns === undefined ? {} : { columns: step.columns };
    const result = step.result ? { result: step.result, given: [...givenNow(step, parameters, bench.values)] } : {};
    const { data } = await describe({ id: step.source, routineResultDto: { signature: step.signature, ...columns, ...result } });
    if (data && data.problems.length === 0) setOver(takeCallOver(step, data as unknown as DescribedRoutine, mint));
  };
  const usedIn = (field: string) =>
    usersOf(bench.trail.definition, new Set([field])).flatMap((id) => checkedStep(bench.trail, id)?.title ?? []);
  const gone = problems.some((each) => each.code === 'routine-gone');
  return (
    <div className="mt-2 space-y-1 border bg-panel px-3 py-1.5" role="group" aria-label="What changed in the source">
      {problems.map((each, at) => (
        <ProblemLine key={at} problem={each} />
      ))}
      {describing.data?.problems.map((each, at) => (
        <ProblemLine key={at} problem={each} />
      ))}
      <FailureNotice failure={failureOf(describing.error)} />
      {over?.gone.map((field) => (
        <p key={field.id}>
          <strong className="font-medium">{field.name}</strong> is gone
          {usedIn(field.id).length > 0 ? `; used in ${usedIn(field.id).join(', ')}.` : '; nothing uses it.'}
        </p>
      ))}
      {!bench.withoutValues && !gone && steps.length > 0 && (
        <p className="flex gap-2">
          {over ? (
            <Button
              small
              kind="primary"
              onClick={() => {
                bench.edit(...over.edits);
                setOver(undefined);
              }}
            >
              Accept it as it is now
            </Button>
          ) : (
            <Button small disabled={describing.isLoading} onClick={() => void look()}>
              What accepting it does
            </Button>
          )}
        </p>
      )}
    </div>
  );
}
