import { useMemo } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import { useRun } from '../runs/use-run';
import { WithDrawers } from './drawers';
import { useFollow } from './follow/use-follow';
import { RowsPanel } from './rows/rows-panel';
import { SentenceBar } from './sentence-bar';
import { StepEditor } from './step-editor';
import { TrailPanel } from './trail-panel';
import { useBench } from './use-bench';
import { useHeadRun } from './use-head-run';
import { mint } from './mint';

const SEPARATOR = 'relative bg-line data-[separator=hover]:bg-ember data-[separator=active]:bg-ember';

/** One dataset, one page: trail left, sentence above, the selected step's editor, and its rows below. */
export function BenchPage() {
  const bench = useBench();
  const slot = useMemo(() => mint(), []);
  const run = useRun(slot, { early: true });
  const head = useHeadRun(bench, run);
  const following = useFollow(bench);
  const across = useDefaultLayout({ id: 'bench-across', storage: localStorage });
  const down = useDefaultLayout({ id: 'bench-down', storage: localStorage });
  return (
    <main className="flex h-full flex-col">
      <SentenceBar bench={bench} />
      <WithDrawers bench={bench} run={run.run}>
        <Group
          orientation="horizontal"
          className="min-w-0 flex-1"
          defaultLayout={across.defaultLayout}
          onLayoutChange={across.onLayoutChange}
        >
          <Panel id="trail" defaultSize="272px" minSize="200px" maxSize="480px" groupResizeBehavior="preserve-pixel-size">
            <TrailPanel
              bench={bench}
              counts={head.counts}
              countsCurrent={head.countCurrent}
              expected={head.expected}
              following={following}
            />
          </Panel>
          <Separator className={`w-px ${SEPARATOR}`} aria-label="Width of the trail" />
          <Panel id="step" minSize="400px">
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
