import { useMemo, useRef, useState } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import { useRun } from '../runs/use-run';
import { WithDrawers } from './drawers';
import { useFollow } from './follow/use-follow';
import { RowsPanel } from './rows/rows-panel';
import { BringInHere } from './join/bring-in-here';
import { SentenceBar } from './sentence-bar';
import { StepEditor } from './step-editor';
import { TrailPanel } from './trail-panel';
import { useBench } from './use-bench';
import { useHeadRun } from './use-head-run';
import { mint } from './mint';

const [NARROWEST, USUAL, WIDEST] = [200, 272, 480];
/** Of a narrow page it takes no more than this to begin with. */
const MOST_OF_PAGE = 0.35;
const KEPT_AS = 'trail-width';

/**
 * The trail keeps its width in pixels. As a share of the page it would come back wider after a drawer, whose room is
 * taken from the middle, was open.
 */
function keptWidth(): number {
  const kept = Number(localStorage.getItem(KEPT_AS));
  const usual = kept >= NARROWEST && kept <= WIDEST ? kept : USUAL;
  return Math.max(NARROWEST, Math.min(usual, Math.round(window.innerWidth * MOST_OF_PAGE)));
}

const keepWidth = (pixels: number) => localStorage.setItem(KEPT_AS, String(Math.round(pixels)));

/** Whether somebody moves it, by the pointer or its keys; the page may also be made narrower around it. */
const isMoved = (separator: HTMLElement | null) =>
  separator !== null && (separator.dataset.separator === 'active' || separator === document.activeElement);

const SEPARATOR = 'relative bg-line data-[separator=hover]:bg-ember data-[separator=active]:bg-ember';

/** One dataset, one page: trail left, sentence above, the selected step's editor, and its rows below. */
export function BenchPage() {
  const bench = useBench();
  const slot = useMemo(() => mint(), []);
  const run = useRun(slot, { early: true });
  const head = useHeadRun(bench, run);
  const following = useFollow(bench);
  const [trailWidth] = useState(keptWidth);
  const separator = useRef<HTMLDivElement>(null);
  const down = useDefaultLayout({ id: 'bench-down', storage: localStorage });
  return (
    <main className="flex h-full flex-col">
      <SentenceBar bench={bench}>
        <BringInHere bench={bench} />
      </SentenceBar>
      <WithDrawers bench={bench} run={run.run}>
        <Group orientation="horizontal" className="min-w-0 flex-1">
          <Panel
            id="trail"
            defaultSize={`${trailWidth}px`}
            minSize={`${NARROWEST}px`}
            maxSize={`${WIDEST}px`}
            groupResizeBehavior="preserve-pixel-size"
            onResize={({ inPixels }) => isMoved(separator.current) && keepWidth(inPixels)}
          >
            <TrailPanel
              bench={bench}
              counts={head.counts}
              countsCurrent={head.countCurrent}
              expected={head.expected}
              following={following}
            />
          </Panel>
          <Separator elementRef={separator} className={`w-px ${SEPARATOR}`} aria-label="Width of the trail" />
          <Panel id="step" minSize="320px">
            <Group orientation="vertical" defaultLayout={down.defaultLayout} onLayoutChange={down.onLayoutChange}>
              <Panel id="editor" defaultSize="46%" minSize="80px">
                <StepEditor
                  bench={bench}
                  checked={bench.selected}
                  counts={head.counts}
                  clauses={head.clauses}
                  countsCurrent={head.clausesCurrent}
                  onFailed={head.showFailed}
                  onOutcome={head.showOutcome}
                />
              </Panel>
              <Separator className={`h-px ${SEPARATOR}`} aria-label="Height of the rows" />
              <Panel id="rows" minSize="80px">
                <RowsPanel bench={bench} run={run} head={head} onFollow={following.followRow} />
              </Panel>
            </Group>
          </Panel>
        </Group>
      </WithDrawers>
    </main>
  );
}
