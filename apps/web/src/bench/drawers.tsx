import { X } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { useLocation } from 'react-router';
import type { RunDto } from '../api';
import { FindingsDrawer } from './findings/findings-drawer';
import { HistoryDrawer } from './history/history-drawer';
import { drawerIn, StatusLine } from './status-line';
import type { Drawer } from './status-line';
import type { Bench } from './use-bench';

const ParametersDrawer = lazy(() => import('./parameters/parameters-drawer'));
const BriefDrawer = lazy(() => import('./brief/brief-drawer'));

interface WithDrawersProps {
  readonly bench: Bench;
  readonly run: RunDto | undefined;
  readonly children: React.ReactNode;
}

/** A view of the dataset above its status line, with the drawer that is open beside it; on a page narrower than 1200 pixels, over it. */
export function WithDrawers({ bench, run, children }: WithDrawersProps) {
  const { hash } = useLocation();
  const [drawer, setDrawer] = useState<Drawer | undefined>(drawerIn(hash));
  const [seen, setSeen] = useState(hash);
  // An address can name the drawer it leads to.
  if (hash !== seen) {
    setSeen(hash);
    setDrawer(drawerIn(hash) ?? drawer);
  }
  const close = () => {
    setDrawer(undefined);
    document.querySelector<HTMLElement>(`[data-drawer="${drawer}"]`)?.focus();
  };
  return (
    <>
      <div className="relative flex min-h-0 flex-1">
        {children}
        {drawer && (
          <aside
            aria-label={drawer}
            onKeyDown={(event) => {
              // What is open in the drawer closes first, and has then taken the key.
              if (event.key === 'Escape' && !event.defaultPrevented) close();
            }}
            className="flex w-80 shrink-0 flex-col border-l bg-paper max-[1199px]:absolute max-[1199px]:inset-y-0 max-[1199px]:right-0 max-[1199px]:z-20 max-[1199px]:max-w-full max-[1199px]:shadow-md"
          >
            <div className="flex h-8 shrink-0 items-center justify-between border-b pr-1 pl-3">
              <h2 className="font-medium">{drawer}</h2>
              <button
                type="button"
                aria-label={`Close ${drawer}`}
                title={`Close ${drawer}`}
                onClick={close}
                className="flex size-6 items-center justify-center text-ink-faint hover:text-ink"
              >
                <X size={16} strokeWidth={1.75} aria-hidden />
              </button>
            </div>
            <div className="min-h-0 flex-1 overflow-auto">
              <Suspense fallback={null}>
                {drawer === 'Parameters' && <ParametersDrawer bench={bench} />}
                {drawer === 'Brief' && <BriefDrawer bench={bench} />}
                {drawer === 'Findings' && <FindingsDrawer bench={bench} />}
                {drawer === 'History' && <HistoryDrawer bench={bench} />}
              </Suspense>
            </div>
          </aside>
        )}
      </div>
      <StatusLine bench={bench} run={run} drawer={drawer} onDrawer={(next) => setDrawer(next === drawer ? undefined : next)} />
    </>
  );
}
