import type { RunDto } from '../api';
import { equal } from '@cendra/core';
import { useAppSelector } from '../app/store';
import { grouped } from '../ui/format';
import { Waiting } from '../ui/waiting';
import type { RunState } from './use-run';

/** What a run is doing, out of how many rows where they were counted already, and the way to stop it. */
export function RunProgress({ run, onStop }: { readonly run: RunDto; readonly onStop: () => void }) {
  const read = useRowsRead(run);
  const what =
    run.state === 'waiting'
      ? 'Waiting for its turn'
      : run.result
        ? 'Counting'
        : run.rowsRead > 0
          ? `${read} read`
          : 'Running in the source';
  return <Waiting what={what} onStop={onStop} />;
}

/** What was stopped, and what is shown all the same; nothing where the rows shown are the stopped run's own. */
export function RunStopped({ run, shown }: Pick<RunState, 'run' | 'shown'>) {
  return run?.state === 'cancelled' && run.result === null ? <Stopped run={run} before={shown?.result ? shown : undefined} /> : null;
}

function Stopped({ run, before }: { readonly run: RunDto; readonly before: RunDto | undefined }) {
  const read = useRowsRead(run);
  const what = run.size === 'full' ? 'Getting all rows was stopped' : 'The run was stopped';
  return (
    <p role="status" className="text-amber">
      {what}
      {run.rowsRead > 0 ? `, ${read} were read` : ' before any row came'}; {before ? 'shown is what was there before' : 'nothing is shown'}.
    </p>
  );
}

function useRowsRead(run: RunDto): string {
  const total = useAppSelector((state) => (run.size === 'full' ? totalOf(run, state.runs) : undefined));
  return `${grouped(run.rowsRead)}${total === undefined ? '' : ` of ${grouped(total)}`} rows`;
}

/** How many rows its step has, as another run of the same revision and values has counted them. */
function totalOf(run: RunDto, runs: Readonly<Record<string, RunDto>>): string | undefined {
  for (const { dataset, revision, values, counts } of Object.values(runs)) {
    if (dataset !== run.dataset || revision !== run.revision) continue;
    const count = counts?.find((each) => each.step === run.step);
    if (count && equal(values, run.values)) return count.rows;
  }
  return undefined;
}
