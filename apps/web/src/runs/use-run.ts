import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Inspection, GivenValues } from '@cendra/core';
import type { RunDto } from '../api';
import { api } from '../api';
import type { Failure } from '../api/problem';
import { failureOf } from '../api/problem';
import { useAppDispatch, useAppSelector } from '../app/store';
import { isOpen, runHeard, withFirstRows } from './runs-slice';

/** A silent event stream is helped out by asking, but rarely. */
const ASK_AFTER = 1_500;

/** What a run is of: while these are the same, its rows are current. */
export interface RunOf {
  readonly dataset: string;
  readonly revision: number;
  readonly step: string;
  readonly size: 'head' | 'full';
  readonly values: GivenValues;
  /** Something else than the step's rows. */
  readonly inspection?: Inspection;
}

export interface RunState {
  readonly run: RunDto | undefined;
  /** The last run of this slot that has rows; shown, marked out of date, while a newer one is under way. With its first rows only where those are wanted. */
  readonly shown: RunDto | undefined;
  readonly failure: Failure | undefined;
  /** One is under way, or being asked for. */
  readonly open: boolean;
  /** Gives the run's id; undefined when it was refused. */
  start(of: RunOf): Promise<string | undefined>;
  stop(): void;
}

interface Following {
  /** A run to begin with. */
  readonly known?: string | undefined;
  /** First rows are looked at before all have arrived. */
  readonly early?: boolean;
}

/** Starts runs of one slot and follows them by events. A newer run of the slot stops the older one at the source. */
export function useRun(slot: string, { known, early = false }: Following = {}): RunState {
  const dispatch = useAppDispatch();
  const [startRun] = api.useRunsStartMutation();
  const [cancelRun] = api.useRunsCancelMutation();
  const [ask] = api.useLazyRunsOneQuery();
  const [id, setId] = useState(known);
  const [shownId, setShownId] = useState(known);
  const [refusal, setRefusal] = useState<Failure>();
  const run = useAppSelector((state) => (id === undefined ? undefined : state.runs[id]));
  const hasRows = run?.result !== null && run?.result !== undefined;
  const whole = useAppSelector((state) => (shownId === undefined ? undefined : state.runs[shownId]));
  const arriving = useMemo(() => (early ? withFirstRows(run) : undefined), [early, run]);
  // What has come is shown at once: the run before must not come back for a moment.
  const shown = arriving ?? (hasRows ? run : whole);
  const [asking, setAsking] = useState(false);
  const underWay = isOpen(run);

  useEffect(() => {
    if (hasRows) setShownId(id);
  }, [hasRows, id]);

  useEffect(() => {
    if (!underWay || id === undefined) return undefined;
    const timer = setInterval(() => {
      void ask({ id }).then((answer) => answer.data && dispatch(runHeard(answer.data)));
    }, ASK_AFTER);
    return () => clearInterval(timer);
  }, [underWay, id, ask, dispatch]);

  // One after the other: of two that overtook each other the older would stop the newer, and be followed instead of it.
  const newest = useRef(0);
  const turn = useRef<Promise<unknown>>(Promise.resolve());
  const start = useCallback(
    async ({ dataset, revision, step, size, values, inspection }: RunOf) => {
      setRefusal(undefined);
      setAsking(true);
      const mine = ++newest.current;
      const given = { dataset, revision, step, size, values: values as Record<string, string[]>, slot };
      const asked = turn.current.then(() =>
        mine === newest.current ? startRun({ newRunDto: inspection ? { ...given, inspection } : given }) : undefined,
      );
      turn.current = asked;
      const answer = await asked;
      if (mine === newest.current) setAsking(false);
      if (!answer) return undefined;
      if (answer.data) {
        dispatch(runHeard(answer.data));
        setId(answer.data.id);
        return answer.data.id;
      }
      setId(undefined);
      setRefusal(failureOf(answer.error));
      return undefined;
    },
    [startRun, dispatch, slot],
  );
  const stop = useCallback(() => {
    if (id !== undefined) void cancelRun({ id }).then((answer) => answer.data && dispatch(runHeard(answer.data)));
  }, [cancelRun, id, dispatch]);

  const failed =
    run?.state === 'failed'
      ? { status: 422, problems: run.problems as Failure['problems'], ...(run.detail === undefined ? {} : { detail: run.detail }) }
      : undefined;
  return { run, shown, failure: refusal ?? failed, open: underWay || asking, start, stop };
}
