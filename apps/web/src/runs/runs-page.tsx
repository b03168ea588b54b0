import { Link } from 'react-router';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { useAppSelector } from '../app/store';
import { Button } from '../ui/button';
import { clock, grouped } from '../ui/format';
import { EmptyState, FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import type { RunDto, RunLineDto } from '../api';
import { isOpen } from './runs-slice';

const COLOUR = { waiting: 'text-ink-soft', running: 'text-ember', done: 'text-moss', failed: 'text-rust', cancelled: 'text-amber' };

/** One's own runs, newest first. */
export function RunsPage() {
  const runs = api.useRunsListQuery(undefined, { refetchOnMountOrArgChange: true });
  const datasets = api.useDatasetsListQuery().data ?? [];
  const heard = useAppSelector((state) => state.runs);
  const [cancel] = api.useRunsCancelMutation();
  if (!runs.data)
    return (
      <main className="p-4">{runs.error ? <FailureNotice failure={failureOf(runs.error)} /> : <Waiting what="Reading your runs" />}</main>
    );
  const list = runs.data.map((run): RunLineDto => {
    const news = heard[run.id];
    return news ? { ...run, ...lineOf(news) } : run;
  });
  return (
    <main className="h-full overflow-auto p-4">
      <h1 className="font-serif text-title">Runs</h1>
      {list.length === 0 ? (
        <EmptyState>No run yet. Rows on the bench are runs; they are listed here.</EmptyState>
      ) : (
        <table className="figures mt-3 w-full border-t">
          <thead>
            <tr className="border-b text-left text-meta text-ink-soft">
              <th className="py-1.5 pr-4 font-normal">dataset</th>
              <th className="pr-4 font-normal">rows asked</th>
              <th className="pr-4 font-normal">state</th>
              <th className="pr-4 text-right font-normal">rows</th>
              <th className="pr-4 text-right font-normal">took, ms</th>
              <th className="pr-4 font-normal">started</th>
              <th className="font-normal">what happened</th>
            </tr>
          </thead>
          <tbody>
            {list.map((run) => (
              <tr key={run.id} className="border-b">
                <td className="py-1 pr-4">
                  <Link className="underline-offset-2 hover:underline" to={`/datasets/${run.dataset}/bench?step=${run.step}`}>
                    {datasets.find((each) => each.id === run.dataset)?.title ?? 'dataset'}
                  </Link>
                  <span className="text-ink-faint"> r{run.revision}</span>
                </td>
                <td className="pr-4">{run.size === 'head' ? 'the first ones' : 'all'}</td>
                <td className={`pr-4 ${COLOUR[run.state]}`}>{run.state}</td>
                <td className="pr-4 text-right">{run.rows > 0 || run.state === 'done' ? grouped(run.rows) : ''}</td>
                <td className="pr-4 text-right">{run.ms === null ? '' : grouped(run.ms)}</td>
                <td className="pr-4">{clock(run.createdAt)}</td>
                <td>
                  {isOpen(run) ? (
                    <Button small onClick={() => void cancel({ id: run.id })}>
                      Stop
                    </Button>
                  ) : (
                    run.told
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </main>
  );
}

/** What was heard of a run since the list was asked for. */
const lineOf = ({ state, ms, rowsRead, problems }: RunDto): Pick<RunLineDto, 'state' | 'ms' | 'rows' | 'told'> => ({
  state,
  ms,
  rows: rowsRead,
  told: problems.map((problem) => problem.message).join(' '),
});
