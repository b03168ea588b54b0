import { ChevronRight } from 'lucide-react';
import { useId, useState } from 'react';
import { whyOf } from '@cendra/core';
import type { ProblemDto } from '../api';
import { api } from '../api';
import { Fixes } from '../bench/findings/fixes';
import type { Bench } from '../bench/use-bench';
import { failureOf } from '../api/problem';
import { FailureNotice, ProblemLine } from '../ui/notice';

interface FindingsStripProps {
  readonly bench: Bench;
  /** Whether there are lines to look behind. */
  readonly ready: boolean;
  readonly asked: { readonly result: string; readonly dataset: string; readonly revision: number };
  /** What is said where rows are missing: nothing was looked at in those. */
  readonly among: string | undefined;
}

/** What is off in the rows as the proof reads them. It says so too when nothing is, as one cannot see that by looking. */
export function FindingsStrip({ bench, ready, asked, among }: FindingsStripProps) {
  const { currentData: found, error } = api.useFoundInRowsQuery(asked, { skip: !ready });
  // Kept here, as another layout is looked through anew: who reads the findings goes on reading them.
  const [open, setOpen] = useState(false);
  const list = useId();
  if (!ready) return null;
  if (error) return <FailureNotice failure={failureOf(error)} />;
  const behind = among === undefined ? '' : `, among ${among}`;
  if (!found) return <span className="text-ink-soft">looking through the rows …</span>;
  if (found.length === 0) return <span className="text-ink-soft">looked through, nothing found{behind}</span>;
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        aria-controls={list}
        onClick={() => setOpen(!open)}
        className="flex items-center gap-1 text-amber"
      >
        <ChevronRight size={16} strokeWidth={1.75} aria-hidden className={open ? 'rotate-90' : ''} />
        {found.length === 1 ? 'One finding' : `${found.length} findings`} in the rows{behind}
      </button>
      {open && (
        <ul id={list} aria-label="Findings in the rows" className="order-last max-h-40 basis-full space-y-1 overflow-auto pl-1">
          {found.map((problem) => (
            <Finding bench={bench} key={`${problem.code} ${problem.place.field ?? ''} ${problem.message}`} problem={problem} />
          ))}
        </ul>
      )}
    </>
  );
}

function Finding({ bench, problem }: { readonly bench: Bench; readonly problem: ProblemDto }) {
  return (
    <li>
      <ProblemLine problem={problem} />
      <p className="pl-5.5 text-meta text-ink-soft">{whyOf(problem)}</p>
      <Fixes bench={bench} problem={problem} />
    </li>
  );
}
