import { useEffect, useMemo, useRef, useState } from 'react';
import type { ExpressionText, Span } from '@cendra/core';
import { bindDefinition, equal } from '@cendra/core';
import { api } from '../../api';
import type { Failure } from '../../api/problem';
import { useRun } from '../../runs/use-run';
import type { Cell } from '../../ui/cell';
import { nowMicros } from '../../ui/now';
import { mint } from '../mint';
import type { Bench } from '../use-bench';
import { calculation } from './calculation';
import type { Frame, LiveRows, ShownTrace, Verdict, Written } from './values';

/** How long typing has to rest before rows are asked for. */
const REST_MS = 300;

/** What the worker last said of something; an answer that comes late is dropped. */
function useAnswer<T>(ask: (() => Promise<T>) | undefined): T | undefined {
  const [answer, setAnswer] = useState<T>();
  useEffect(() => {
    let current = true;
    if (!ask) {
      setAnswer(undefined);
      return undefined;
    }
    void ask().then((given) => current && setAnswer(given));
    return () => {
      current = false;
    };
  }, [ask]);
  return answer;
}

/** The check of an expression as it is typed. */
export function useVerdict(written: Written): Verdict | undefined {
  return useAnswer(useMemo(() => () => calculation().verdictOf(written), [written]));
}

export interface Live {
  readonly rows: LiveRows | undefined;
  readonly waiting: boolean;
  readonly failure: Failure | undefined;
}

/** A handful of rows for a calculated field, asked for again when it uses other fields or other rows. */
export function useLive(bench: Bench, step: string, field: string, expression: ExpressionText, verdict: Verdict | undefined): Live {
  const slot = useMemo(() => mint(), []);
  const { start, shown, open, failure } = useRun(slot);
  const { saved, pending } = bench.bench;
  const sound = verdict !== undefined && verdict.problems.every((each) => each.severity !== 'error');
  const used = verdict?.used.toSorted().join(' ') ?? '';
  const wanted = useMemo(
    () => ({ dataset: bench.id, revision: saved.revision, step, field, used, otherRows: verdict?.otherRows ?? '', values: bench.values }),
    [bench.id, saved.revision, step, field, used, verdict?.otherRows, bench.values],
  );
  const asked = useRef<typeof wanted>(undefined);
  const bound = useMemo(() => bindDefinition(bench.trail.definition, bench.values, nowMicros()), [bench.trail.definition, bench.values]);
  const ready = sound && pending.length === 0 && bound.problems.length === 0 && !bench.withoutValues;
  const latest = useRef(expression);
  useEffect(() => {
    latest.current = expression;
  });
  useEffect(() => {
    if (!ready || (asked.current && equal(asked.current, wanted))) return undefined;
    const timer = setTimeout(() => {
      asked.current = wanted;
      const { dataset, revision, values } = wanted;
      void start({
        dataset,
        revision,
        step: wanted.step,
        size: 'head',
        values,
        inspection: { kind: 'live', field: wanted.field, expression: latest.current },
      });
    }, REST_MS);
    return () => clearTimeout(timer);
  }, [ready, wanted, start]);

  const result = shown?.result ?? undefined;
  const page = api.useResultsRowsQuery({ id: result?.id ?? '', offset: 0, limit: 200 }, { skip: result === undefined }).currentData as
    readonly (readonly Cell[])[] | undefined;
  const rows = useMemo(
    () =>
      result && page
        ? { columns: result.columns.map((each) => each.id), rows: page, otherRows: asked.current?.otherRows ?? '' }
        : undefined,
    [result, page],
  );
  return { rows, waiting: open || (result !== undefined && page === undefined), failure };
}

/** Values of the whole and of the part pointed at, for each live row. */
export function useLiveValues(written: Written, rows: LiveRows | undefined, bench: Bench, at: Span | undefined) {
  const { values } = bench;
  return useAnswer(
    useMemo(() => rows && (() => calculation().liveValues(written, rows, { values, now: nowMicros() }, at)), [written, rows, values, at]),
  );
}

/** How the value of one live row came about. */
export function useTrace(written: Written, rows: LiveRows | undefined, bench: Bench, row: number | undefined): ShownTrace | undefined {
  const { values } = bench;
  return useAnswer(
    useMemo(
      () => (rows && row !== undefined ? () => calculation().traceOf(written, rows, { values, now: nowMicros() }, row) : undefined),
      [written, rows, values, row],
    ),
  );
}

/** The rows of a frame, asked for when they are opened. */
export function useFrame(bench: Bench, step: string, field: string, expression: ExpressionText, frame: Frame | undefined) {
  const slot = useMemo(() => mint(), []);
  const { start, shown, open, failure } = useRun(slot);
  const { saved, pending } = bench.bench;
  useEffect(() => {
    if (!frame || pending.length > 0) return;
    const { window, partition, from, until } = frame;
    if (until < 1 || from > until) return;
    const inspection = { kind: 'frame' as const, field, expression, window, partition, from: Math.max(1, from), until };
    void start({ dataset: bench.id, revision: saved.revision, step, size: 'head', values: bench.values, inspection });
  }, [frame, pending.length, saved.revision, start, bench.id, bench.values, step, field, expression]);
  return { result: frame ? (shown?.result ?? undefined) : undefined, open, failure };
}
