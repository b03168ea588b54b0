import { Plus } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { clock } from '../ui/format';
import { EmptyState, FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import { sourceKind } from './kinds';
import { SettingsForm } from './settings-form';
import { SourceMark } from './source-mark';

export function SourcesPage() {
  const sources = api.useSourcesListQuery(undefined, { refetchOnMountOrArgChange: true });
  const me = api.usePeopleMeQuery().data;
  const [adding, setAdding] = useState(false);
  const navigate = useNavigate();
  const steward = me?.role === 'steward';
  const add = steward && !adding && (
    <Button kind="primary" icon={Plus} onClick={() => setAdding(true)}>
      Add a source
    </Button>
  );
  if (!sources.data)
    return (
      <main className="p-4">
        {sources.error ? <FailureNotice failure={failureOf(sources.error)} /> : <Waiting what="Reading the sources" />}
      </main>
    );
  return (
    <main className="mx-auto h-full max-w-5xl overflow-auto p-4">
      <div className="flex items-end justify-between">
        <h1 className="font-serif text-title">Sources</h1>
        {add}
      </div>
      {adding && (
        <section className="mt-3 border-t pt-3">
          <SettingsForm onDone={({ id }) => void navigate(`/sources/${id}`)} onLeave={() => setAdding(false)} />
        </section>
      )}
      {sources.data.length === 0 ? (
        <EmptyState>
          {steward ? 'No source yet. Add the database your reports stand on.' : 'No source was given to you yet. A steward gives sources.'}
        </EmptyState>
      ) : (
        <ul className="mt-3 border-t">
          {sources.data.map(({ id, name, mark, kind, settings, test }, index) => (
            <li key={id} className="flex items-center gap-3 border-b py-2 hover:bg-panel">
              <SourceMark mark={mark} lane={index} />
              <Link to={`/sources/${id}`} className="text-section underline-offset-2 hover:underline">
                {name}
              </Link>
              <span className="text-ink-soft">
                {[sourceKind(kind)?.word ?? kind, ...(settings ? [sourceKind(kind)?.place(settings)] : [])].join(', ')}
              </span>
              <span className="figures ml-auto pr-2 text-meta">
                {!test ? (
                  <span className="text-ink-faint">not tested yet</span>
                ) : test.stale ? (
                  <span className="text-amber">changed since its test</span>
                ) : test.ok ? (
                  <span className="text-moss">answered {clock(test.at)}</span>
                ) : (
                  <span className="text-rust">failed {clock(test.at)}</span>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
    </main>
  );
}
