import type { RunDto } from '../api';
import { grouped } from '../ui/format';
import { Waiting } from '../ui/waiting';

/** What a run is doing, and the way to stop it. */
export function RunProgress({ run, onStop }: { readonly run: RunDto; readonly onStop: () => void }) {
  const what =
    run.state === 'waiting'
      ? 'Waiting for its turn'
      : run.result
        ? 'Counting'
        : run.rowsRead > 0
          ? `${grouped(run.rowsRead)} rows read`
          : 'Running in the source';
  return <Waiting what={what} onStop={onStop} />;
}
