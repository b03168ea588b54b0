import { Input } from '@headlessui/react';
import { Plus } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import type { DatasetLineDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { EmptyState, FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import { DatasetLine } from './dataset-line';
import { DeletedLines } from './deleted-lines';

const TablePicker = lazy(() => import('./table-picker'));
const TextDialog = lazy(() => import('./text-dialog'));

/** Every dataset, found by its title, description, tags or who changed it. */
export function DatasetsPage() {
  const datasets = api.useDatasetsListQuery(undefined, { refetchOnMountOrArgChange: true });
  const [sought, setSought] = useState('');
  const [picking, setPicking] = useState<'table' | 'text'>();
  const [deleted, setDeleted] = useState<DatasetLineDto>();
  const begin = (
    <div className="flex gap-2">
      <Button kind="primary" icon={Plus} onClick={() => setPicking('table')}>
        New from a table
      </Button>
      <Button icon={Plus} onClick={() => setPicking('text')}>
        Paste SQL
      </Button>
    </div>
  );
  if (!datasets.data)
    return (
      <main className="p-4">
        {datasets.error ? <FailureNotice failure={failureOf(datasets.error)} /> : <Waiting what="Reading the datasets" />}
      </main>
    );
  const found = datasets.data.filter((each) => holds(each, sought));
  return (
    <main className="mx-auto h-full max-w-5xl overflow-auto p-4">
      <div className="flex items-end gap-3">
        <h1 className="mr-auto font-serif text-title">Datasets</h1>
        {datasets.data.length > 0 && (
          <>
            <Input
              aria-label="Find a dataset"
              placeholder="Part of a title, tag or description"
              value={sought}
              onChange={(event) => setSought(event.target.value)}
              className="h-8 w-72 rounded border bg-paper px-2"
            />
            {begin}
          </>
        )}
      </div>
      {deleted && <Deleted dataset={deleted} onDone={() => setDeleted(undefined)} />}
      {datasets.data.length === 0 ? (
        <EmptyState action={begin}>No dataset yet. Start from a table or paste SQL.</EmptyState>
      ) : found.length === 0 ? (
        <EmptyState action={<Button onClick={() => setSought('')}>Show all</Button>}>
          No dataset has “{sought}” in its title, tags or description.
        </EmptyState>
      ) : (
        <table className="figures mt-3 w-full border-t">
          <thead>
            <tr className="border-b text-left text-meta text-ink-soft">
              <th scope="col" className="py-1.5 font-normal">
                title
              </th>
              <th scope="col" className="font-normal">
                draft
              </th>
              <th scope="col" className="font-normal">
                last changed
              </th>
              <th scope="col" className="font-normal">
                by
              </th>
              <th scope="col" aria-label="what to do" />
            </tr>
          </thead>
          <tbody>
            {found.map((dataset) => (
              <DatasetLine key={dataset.id} dataset={dataset} onTag={setSought} onDeleted={setDeleted} />
            ))}
          </tbody>
        </table>
      )}
      <DeletedLines />
      <Suspense fallback={null}>
        {picking === 'table' && <TablePicker onClose={() => setPicking(undefined)} />}
        {picking === 'text' && <TextDialog onClose={() => setPicking(undefined)} />}
      </Suspense>
    </main>
  );
}

function holds({ title, description, tags, changedBy }: DatasetLineDto, sought: string): boolean {
  const words = sought.toLowerCase().split(/\s+/);
  const text = [title, description, changedBy, ...tags].join(' ').toLowerCase();
  return words.every((word) => text.includes(word));
}

/** A deleted dataset is one click from being there again. */
function Deleted({ dataset, onDone }: { readonly dataset: DatasetLineDto; readonly onDone: () => void }) {
  const [takeBack, taking] = api.useDatasetsTakeBackMutation();
  return (
    <div role="status" className="mt-3 flex items-center gap-3 border bg-panel px-3 py-1.5">
      <span>
        Deleted <strong className="font-medium">{dataset.title}</strong>.
      </span>
      <Button
        small
        onClick={() => void takeBack({ id: dataset.id }).then((answer) => !answer.error && onDone())}
        disabled={taking.isLoading}
      >
        Undo
      </Button>
      <FailureNotice failure={failureOf(taking.error)} />
    </div>
  );
}
