import { lazy, Suspense, useEffect, useMemo, useRef, useState } from 'react';
import type { ChartReading, SheetField } from '@cendra/core';
import { lineReader } from '@cendra/core';
import type { ProofDto } from '../../api';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { PAGE } from '../../bench/rows/use-pages';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import { Waiting } from '../../ui/waiting';
import type { ProofAsked } from '../use-read-lines';
import { useReadLines } from '../use-read-lines';
import type { Drawn } from './drawn';
import { drawnOf, LINES_READ } from './drawn';

const ChartFigure = lazy(() => import('./chart-figure'));

/** What a chart shows, once its lines were read. */
export interface ShownChart {
  readonly reading: ChartReading;
  readonly drawn: Drawn;
  readonly says: string;
}

interface ChartPanelProps {
  readonly asked: Omit<ProofAsked, 'drawn'>;
  readonly reading: ChartReading;
  readonly fields: readonly SheetField[];
  /** What a file of it is called, and what stands below it there. */
  readonly name: string;
  readonly notes: readonly string[];
  /** Also for paper. */
  onShown(shown: ShownChart | undefined): void;
}

/** So high is a chart, in pixels: a fifth of the window, which leaves lines in sight below it. */
const chartHeight = () => Math.round(Math.min(230, Math.max(140, window.innerHeight / 5)));

/** The proof's chart above its lines: the same figures, of all groups as far as they can be read. */
export default function ChartPanel({ asked, reading, fields, name, notes, onShown }: ChartPanelProps) {
  const drawnAsked = useMemo((): ProofAsked => ({ ...asked, drawn: true }), [asked]);
  const proof = api.useProofQuery(drawnAsked);
  const made = proof.currentData;
  const drawn = useDrawn(drawnAsked, made, reading, fields);
  const says = useMemo(() => saysOf(reading, fields), [reading, fields]);
  const shown = useMemo(() => drawn && { reading, drawn, says }, [drawn, reading, says]);
  useEffect(() => {
    onShown(shown);
    return () => onShown(undefined);
  }, [shown, onShown]);
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const [height] = useState(chartHeight);
  const take = (kind: 'svg' | 'png') =>
    void import('./chart-file').then(({ takeChart }) => box.current && takeChart(box.current, kind, name, notes));
  return (
    <section aria-label="Chart" className="shrink-0 border-b py-2">
      <div ref={box}>
        <FailureNotice failure={failureOf(proof.error)} />
        {!drawn && !proof.error && <Waiting what="Drawing the chart" />}
        {drawn && width > 0 && (
          <Suspense fallback={<div style={{ height }} />}>
            <ChartFigure chart={reading.chart} drawn={drawn} says={says} width={width} height={height}>
              <span className="ml-auto flex shrink-0 gap-1">
                <Button small kind="quiet" onClick={() => take('svg')}>
                  Take the chart as SVG
                </Button>
                <Button small kind="quiet" onClick={() => take('png')}>
                  as PNG
                </Button>
              </span>
            </ChartFigure>
          </Suspense>
        )}
      </div>
    </section>
  );
}

/** “sum of Kilos by Region, one series per Season”. */
function saysOf({ chart, layout, small }: ChartReading, fields: readonly SheetField[]): string {
  const label = (id: string | undefined) => fields.find((each) => each.id === id)?.label ?? '';
  const [first, second] = layout.levels;
  const by = small ? `${label(second?.field)}, a chart per ${label(first?.field)}` : label(first?.field);
  const series = layout.across ? `, a series per ${layout.across.levels.map((each) => label(each.field)).join(' and ')}` : '';
  return `${chart.aggregate} of ${label(chart.field)} by ${by}${series}, as ${chart.as}`;
}

/** The lines a chart is made of, read to their end or as far as anything could be told apart. */
function useDrawn(asked: ProofAsked, made: ProofDto | undefined, reading: ChartReading, fields: readonly SheetField[]): Drawn | undefined {
  const read = useReadLines(asked, made?.key ?? '');
  const [drawn, setDrawn] = useState<{ readonly of: ProofDto; readonly by: ChartReading; readonly drawn: Drawn }>();
  useEffect(() => {
    if (!made) return undefined;
    let current = true;
    const gather = async () => {
      const lineOf = lineReader(made, reading.layout);
      const wanted = Math.min(made.lines, LINES_READ);
      const lines = [];
      for (let page = 0; page * PAGE < wanted; page++) lines.push(...((await read(page)) ?? []).map(lineOf));
      if (current) setDrawn({ of: made, by: reading, drawn: drawnOf(reading, fields, made.across, lines.slice(0, wanted), made.lines) });
    };
    void gather();
    return () => {
      current = false;
    };
  }, [made, reading, fields, read]);
  return drawn && drawn.of === made && drawn.by === reading ? drawn.drawn : undefined;
}

/** How wide an element is, as it changes. */
function useWidth(box: React.RefObject<HTMLDivElement | null>): number {
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(([entry]) => entry && setWidth(Math.floor(entry.contentRect.width)));
    observer.observe(element);
    return () => observer.disconnect();
  }, [box]);
  return width;
}
