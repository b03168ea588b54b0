import { api } from '../api';
import { failureOf } from '../api/problem';
import { clock } from '../ui/format';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';

/** The newest revisions in words, with who and when. */
export function HistoryDrawer({ id, revision }: { readonly id: string; readonly revision: number }) {
  const history = api.useDatasetsRevisionsQuery({ id, before: revision + 1 });
  const list = history.currentData ?? history.data;
  if (!list)
    return (
      <div className="p-3">
        {history.error ? <FailureNotice failure={failureOf(history.error)} /> : <Waiting what="Reading the history" />}
      </div>
    );
  return (
    <ol>
      {list.map(({ number, sentence, madeAt, person }) => (
        <li key={number} className="border-b px-3 py-1.5">
          <span className="figures text-meta text-ink-soft">
            r{number}, {clock(madeAt)}, {person}
          </span>
          <span className="block">{sentence}</span>
        </li>
      ))}
    </ol>
  );
}
