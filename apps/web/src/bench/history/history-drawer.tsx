import { useState } from 'react';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { Button } from '../../ui/button';
import { clock } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import { Waiting } from '../../ui/waiting';
import type { Bench } from '../use-bench';
import { Comparison } from './comparison';

/** The revisions in words, with who and when. Two are compared, and one is gone back to. */
export function HistoryDrawer({ bench }: { readonly bench: Bench }) {
  const newest = bench.bench.saved.revision;
  const [pages, setPages] = useState(1);
  const [chosen, setChosen] = useState<readonly number[]>([]);
  const choose = (number: number) =>
    setChosen((old) => (old.includes(number) ? old.filter((each) => each !== number) : [...old.slice(-1), number]));
  const [from, until] = chosen.toSorted((a, b) => a - b);
  return (
    <div>
      {from === undefined ? (
        <p className="border-b px-3 py-2 text-ink-soft">Choose a revision to see what changed since, or two to compare them.</p>
      ) : (
        <Comparison key={`${from} ${until}`} bench={bench} from={from} until={until ?? newest} onClose={() => setChosen([])} />
      )}
      <ol aria-label="Revisions">
        {/* Revisions are numbered without gaps, so pages follow from the newest one also when it changes. */}
        {Array.from({ length: pages }, (_, page) => (
          <Revisions
            key={page}
            bench={bench}
            before={newest + 1 - page * PAGE}
            chosen={chosen}
            onChoose={choose}
            onOlder={page === pages - 1 ? () => setPages(pages + 1) : undefined}
          />
        ))}
      </ol>
    </div>
  );
}

interface RevisionsProps {
  readonly bench: Bench;
  readonly before: number;
  readonly chosen: readonly number[];
  readonly onChoose: (number: number) => void;
  readonly onOlder: (() => void) | undefined;
}

const PAGE = 100;

function Revisions({ bench, before, chosen, onChoose, onOlder }: RevisionsProps) {
  const history = api.useDatasetsHistoryQuery({ id: bench.id, before });
  const list = history.currentData ?? history.data;
  if (!list)
    return (
      <li className="p-3">
        {history.error ? <FailureNotice failure={failureOf(history.error)} /> : <Waiting what="Reading the history" />}
      </li>
    );
  const last = list.at(-1)?.number ?? 1;
  return (
    <>
      {list.map(({ number, sentence, withheld, madeAt, person }) => (
        <li key={number} className={`border-b ${chosen.includes(number) ? 'bg-panel' : ''}`}>
          <button
            type="button"
            aria-pressed={chosen.includes(number)}
            disabled={withheld}
            onClick={() => onChoose(number)}
            className="w-full px-3 py-1.5 text-left hover:bg-panel"
          >
            <span className="figures text-meta text-ink-soft">
              r{number}, {clock(madeAt)}, {person}
            </span>
            <span className={`block ${withheld ? 'text-ink-soft' : ''}`}>{withheld ? 'about a source you lack' : sentence}</span>
          </button>
        </li>
      ))}
      {last > 1 && onOlder && (
        <li className="px-3 py-2">
          <Button small onClick={onOlder}>
            Older revisions
          </Button>
        </li>
      )}
    </>
  );
}
