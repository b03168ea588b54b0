import { Plus } from 'lucide-react';
import { Link, useNavigate } from 'react-router';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { clock } from '../ui/format';
import { EmptyState, FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';

export function DatasetsPage() {
  const datasets = api.useDatasetsListQuery(undefined, { refetchOnMountOrArgChange: true });
  const navigate = useNavigate();
  const begin = (
    <Button kind="primary" icon={Plus} onClick={() => void navigate('/sources')}>
      New from a table
    </Button>
  );
  if (!datasets.data)
    return (
      <main className="p-4">
        {datasets.error ? <FailureNotice failure={failureOf(datasets.error)} /> : <Waiting what="Reading the datasets" />}
      </main>
    );
  return (
    <main className="mx-auto h-full max-w-5xl overflow-auto p-4">
      <div className="flex items-end justify-between">
        <h1 className="font-serif text-title">Datasets</h1>
        {datasets.data.length > 0 && begin}
      </div>
      {datasets.data.length === 0 ? (
        <EmptyState action={begin}>No dataset yet. Start from a table: open a source, find the table, and begin.</EmptyState>
      ) : (
        <table className="figures mt-3 w-full border-t">
          <thead>
            <tr className="border-b text-left text-meta text-ink-soft">
              <th className="py-1.5 font-normal">title</th>
              <th className="font-normal">draft</th>
              <th className="font-normal">last changed</th>
              <th className="font-normal">by</th>
            </tr>
          </thead>
          <tbody>
            {datasets.data.map(({ id, title, revision, changedAt, changedBy }) => (
              <tr key={id} className="border-b hover:bg-panel">
                <td className="py-1.5">
                  <Link to={`/datasets/${id}/bench`} className="text-section underline-offset-2 hover:underline">
                    {title}
                  </Link>
                </td>
                <td className="text-ink-soft">r{revision}</td>
                <td>{clock(changedAt)}</td>
                <td>{changedBy}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </main>
  );
}
