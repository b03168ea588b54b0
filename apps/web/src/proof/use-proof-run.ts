import { useCallback, useEffect, useMemo } from 'react';
import { bindDefinition, resultStep } from '@cendra/core';
import { useAppDispatch, useAppSelector } from '../app/store';
import { mint } from '../bench/mint';
import type { Bench } from '../bench/use-bench';
import type { RunState } from '../runs/use-run';
import { useRun } from '../runs/use-run';
import { nowMicros } from '../ui/now';
import { proofRan } from './proof-slice';
import { rowsDependOn } from './rows-depend-on';

export interface ProofRunState extends RunState {
  /** Why nothing can run. */
  readonly obstacle: 'without source' | 'pending' | 'values' | 'nothing' | undefined;
  /** The shown rows are what the dataset gives as it is defined now. */
  readonly current: boolean;
  again(): void;
}

/** Keeps a full run of the step that is handed over; what only concerns how it is read does not run it again. */
export function useProofRun(bench: Bench): ProofRunState {
  const { trail, values, id } = bench;
  const dispatch = useAppDispatch();
  const slot = useMemo(() => mint(), []);
  const ran = useAppSelector((state) => state.proofRuns[id]);
  const run = useRun(slot, { known: ran?.run });
  const { start } = run;
  const last = resultStep(trail);
  const binding = useMemo(() => bindDefinition(trail.definition, values, nowMicros()), [trail.definition, values]);
  const { revision } = bench.bench.saved;
  const step = last?.step.id ?? '';
  const { used } = binding;
  const of = useMemo(() => rowsDependOn(trail.definition, used), [trail.definition, used]);
  const obstacle = bench.withoutValues
    ? 'without source'
    : bench.bench.pending.length > 0
      ? 'pending'
      : binding.problems.length > 0
        ? 'values'
        : !last || last.blocked || last.schema.fields.every((each) => each.forUseOnly)
          ? 'nothing'
          : undefined;
  const again = useCallback(() => {
    void start({ dataset: id, revision, step, size: 'full', values: used }).then(
      (started) => started && dispatch(proofRan({ dataset: id, of, run: started })),
    );
  }, [start, dispatch, id, revision, step, used, of]);
  const known = ran?.of === of && run.failure === undefined;
  useEffect(() => {
    if (obstacle === undefined && !known && ran?.of !== of) again();
  }, [obstacle, known, ran?.of, of, again]);
  return { ...run, obstacle, current: ran?.of === of && run.shown?.id === ran.run, again };
}
