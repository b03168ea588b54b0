import type { SummariseStep } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import type { Bench } from '../use-bench';

interface NestedKeysProps {
  readonly bench: Bench;
  readonly step: SummariseStep;
  readonly blocked: boolean;
}

/** “district lies within region”, as the data have it, with the order that follows from it proposed. */
export function NestedKeys({ bench, step, blocked }: NestedKeysProps) {
  const { answer } = useAnswer(bench, blocked || bench.withoutValues ? undefined : { kind: 'nesting', step: step.id }, 300);
  const nameOf = (id: string) => step.keys.find((each) => each.id === id)?.name ?? '…';
  const at = (id: string) => step.keys.findIndex((each) => each.id === id);
  return answer?.map(({ inner, outer }) => (
    <p key={`${inner} ${outer}`} className="flex items-center gap-2 text-meta text-ink-soft">
      {nameOf(inner)} lies within {nameOf(outer)}.
      {at(inner) < at(outer) && !bench.withoutValues && (
        <Button
          small
          kind="quiet"
          onClick={() => {
            const key = step.keys[at(outer)];
            const to = key && step.keys.toSpliced(at(outer), 1).toSpliced(at(inner), 0, key);
            if (to) bench.edit({ kind: 'set step', step: step.id, property: 'keys', from: step.keys, to });
          }}
        >
          {`Group by ${nameOf(outer)} first`}
        </Button>
      )}
    </p>
  ));
}
