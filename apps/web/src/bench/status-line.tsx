import { lazy, Suspense, useCallback, useState } from 'react';
import { sourcesOf } from '@cendra/core';
import type { RunDto } from '../api';
import { api } from '../api';
import type { Bench } from './use-bench';
import { planWords, usePlan } from './runnable/use-plan';
import { textsIn } from './sql/texts-in';

const CountInText = lazy(() => import('./sql/count-in-text'));

const DRAWERS = ['Parameters', 'Brief', 'Findings', 'History'] as const;
export type Drawer = (typeof DRAWERS)[number];

/** The drawer an address leads to, as `#Parameters`. */
export const drawerIn = (hash: string): Drawer | undefined => DRAWERS.find((each) => `#${each}` === hash);

interface StatusLineProps {
  readonly bench: Bench;
  readonly run: RunDto | undefined;
  readonly drawer: Drawer | undefined;
  readonly onDrawer: (drawer: Drawer) => void;
}

/** Where the work runs, how many findings there are, and the drawers. */
export function StatusLine({ bench, run, drawer, onDrawer }: StatusLineProps) {
  const { trail, withoutValues } = bench;
  const sources = api.useSourcesListQuery().data ?? [];
  const read = sourcesOf(trail.definition);
  const known = sources.filter((each) => read.includes(each.id));
  const plan = usePlan(bench, bench.selected);
  const texts = withoutValues ? [] : textsIn(trail);
  const [inTexts, setInTexts] = useState<ReadonlyMap<string, number>>(new Map());
  const count = useCallback((step: string, found: number) => setInTexts((before) => new Map(before).set(step, found)), []);
  const findings = trail.problems.length + texts.reduce((sum, { id }) => sum + (inTexts.get(id) ?? 0), 0);
  const errors = trail.problems.filter((each) => each.severity === 'error').length;
  return (
    <footer className="flex h-[26px] shrink-0 items-center gap-4 border-t bg-panel px-3 text-meta whitespace-nowrap text-ink-soft">
      <span className="min-w-0 truncate">
        {withoutValues
          ? 'You lack a source of this dataset: its shape is shown, without rows and values.'
          : known.length < read.length
            ? 'A source was removed'
            : plan
              ? planWords(plan)
              : known.length > 0
                ? `Reads ${known.map((each) => each.name).join(', ')}`
                : 'Reads no source yet'}
      </span>
      {run?.ms !== null && run?.ms !== undefined && <span className="figures">last run {run.ms} ms</span>}
      <span className={errors > 0 ? 'text-rust' : ''}>
        {findings === 0 ? 'no findings' : `${findings} finding${findings === 1 ? '' : 's'}`}
      </span>
      <Suspense fallback={null}>
        {texts.map((each) => (
          <CountInText key={each.id} bench={bench} step={each} onCount={count} />
        ))}
      </Suspense>
      <div className="ml-auto flex shrink-0">
        {DRAWERS.map((each) => (
          <button
            key={each}
            type="button"
            data-drawer={each}
            aria-expanded={each === drawer}
            onClick={() => onDrawer(each)}
            className={`px-2 py-0.5 hover:text-ink ${each === drawer ? 'bg-paper text-ink' : ''}`}
          >
            {each}
          </button>
        ))}
      </div>
    </footer>
  );
}
