import { useCallback, useEffect, useMemo, useRef } from 'react';
import type { GivenValues } from '@cendra/core';
import { bindValues, equal } from '@cendra/core';
import type { StepCountDto } from '../api';
import type { RunOf, RunState } from '../runs/use-run';
import type { Bench } from './use-bench';

/** Slots run again by themselves only while the last run took less than this. */
const QUICK_MS = 2_000;

export interface HeadRun {
  /** The rows shown are of this definition, step and these values. */
  readonly current: boolean;
  /** Exact counts by step, of the rows shown. */
  readonly counts: Readonly<Record<string, StepCountDto>>;
  /** Why nothing can run now; undefined when something can. */
  readonly obstacle: 'blocked' | 'nothing taken' | 'values' | 'without source' | undefined;
  run(size: 'head' | 'full'): void;
}

/** Keeps a head run of the selected step going as edits are saved and values change. */
export function useHeadRun(bench: Bench, state: RunState): HeadRun {
  const { id, trail, selected, values, withoutValues } = bench;
  const { saved, pending } = bench.bench;
  const binding = useMemo(() => bindValues(trail.definition.parameters, values), [trail.definition.parameters, values]);
  const taken = selected?.schema.fields.some((each) => !each.forUseOnly) ?? false;
  const obstacle = withoutValues
    ? 'without source'
    : !selected || selected.blocked
      ? 'blocked'
      : !taken
        ? 'nothing taken'
        : binding.problems.length > 0
          ? 'values'
          : undefined;
  const step = selected?.step.id ?? '';
  const settled = pending.length === 0;
  const wanted = useMemo(
    (): Omit<RunOf, 'size'> => ({ dataset: id, revision: saved.revision, step, values: binding.used }),
    [id, saved.revision, step, binding.used],
  );
  const of = useRef<Omit<RunOf, 'size'>>(undefined);
  const { start, shown } = state;
  const quick = shown?.ms === undefined || shown.ms === null || shown.ms < QUICK_MS;

  const run = useCallback(
    (size: 'head' | 'full') => {
      of.current = wanted;
      void start({ ...wanted, size });
    },
    [start, wanted],
  );

  useEffect(() => {
    if (obstacle !== undefined || !settled || !quick || (of.current && equal(of.current, wanted))) return;
    run('head');
  }, [obstacle, settled, quick, wanted, run]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key !== 'Enter' || obstacle !== undefined || !settled) return;
      event.preventDefault();
      run('head');
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [obstacle, settled, run]);

  const current =
    settled && shown !== undefined && shown.revision === saved.revision && shown.step === step && sameValues(shown.values, binding.used);
  const counts = useMemo(() => Object.fromEntries((shown?.counts ?? []).map((each) => [each.step, each])), [shown?.counts]);
  return { current, counts, obstacle, run };
}

/** Recorded values may leave out the tail of a very long list. */
function sameValues(recorded: GivenValues, used: GivenValues): boolean {
  return Object.entries(used).every(([id, values]) => {
    const known = recorded[id] ?? [];
    return values.length > 1_000 ? known.length === 1_001 && equal(known.slice(0, 1_000), values.slice(0, 1_000)) : equal(known, values);
  });
}
