import { lazy, Suspense } from 'react';
import { useState } from 'react';
import type { RunDto } from '../api';
import { FindingsDrawer } from './findings/findings-drawer';
import { HistoryDrawer } from './history/history-drawer';
import { StatusLine } from './status-line';
import type { Drawer } from './status-line';
import type { Bench } from './use-bench';

const ParametersDrawer = lazy(() => import('./parameters/parameters-drawer'));
const BriefDrawer = lazy(() => import('./brief/brief-drawer'));

interface WithDrawersProps {
  readonly bench: Bench;
  readonly run: RunDto | undefined;
  readonly children: React.ReactNode;
}

/** A view of the dataset above its status line, with the drawer that is open beside it. */
export function WithDrawers({ bench, run, children }: WithDrawersProps) {
  const [drawer, setDrawer] = useState<Drawer>();
  return (
    <>
      <div className="flex min-h-0 flex-1">
        {children}
        {drawer && (
          <aside className="w-80 shrink-0 overflow-auto border-l bg-paper" aria-label={drawer}>
            <Suspense fallback={null}>
              {drawer === 'Parameters' && <ParametersDrawer bench={bench} />}
              {drawer === 'Brief' && <BriefDrawer bench={bench} />}
              {drawer === 'Findings' && <FindingsDrawer bench={bench} />}
              {drawer === 'History' && <HistoryDrawer bench={bench} />}
            </Suspense>
          </aside>
        )}
      </div>
      <StatusLine bench={bench} run={run} drawer={drawer} onDrawer={(next) => setDrawer(next === drawer ? undefined : next)} />
    </>
  );
}
