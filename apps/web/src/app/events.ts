import { useCallback, useEffect } from 'react';
import type { RunDto } from '../api';
import { api } from '../api';
import { isOpen, runHeard } from '../runs/runs-slice';
import { datasetHeard } from '../bench/dataset-heard';
import type { Dispatch, State } from './store';
import { useAppDispatch } from './store';

type Heard =
  /** News that would be large is only said to be there. */
  | { readonly kind: 'run'; readonly body: RunDto | { readonly id: string; readonly again: true } }
  /** Some events were missed. */
  | { readonly kind: 'again' }
  | { readonly kind: 'dataset'; readonly body: { id: string; revision: number; editId: string } };

/** A stream that was refused is asked for again after so long, in ms. */
const REFUSED_AGAIN_AFTER = 5_000;

/**
 * One stream per browser: the tab that holds the lock listens to the server and passes every event to the
 * others. Browsers allow six connections per host; a stream per tab would use them up.
 */
export function useEvents(): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    const others = new BroadcastChannel('cendra.events');
    const leaving = new AbortController();
    others.onmessage = (message: MessageEvent<Heard>) => take(message.data, dispatch);
    const lead = () =>
      new Promise<void>((resolve) => {
        let stream: EventSource;
        const hear = (heard: Heard) => {
          take(heard, dispatch);
          others.postMessage(heard);
        };
        let broken = false;
        let timer: ReturnType<typeof setTimeout> | undefined;
        const open = () => {
          stream = new EventSource('/api/events');
          stream.addEventListener('error', () => {
            broken = true;
            // A browser tries again by itself where a stream broke off, but not where it was refused: the session may be over.
            if (stream.readyState === EventSource.CLOSED) timer = setTimeout(open, REFUSED_AGAIN_AFTER);
          });
          stream.addEventListener('open', () => {
            if (broken) hear({ kind: 'again' });
            broken = false;
          });
          for (const kind of ['run', 'dataset', 'again'] as const)
            stream.addEventListener(kind, (event: MessageEvent<string>) => hear({ kind, body: JSON.parse(event.data) as never } as Heard));
        };
        open();
        leaving.signal.addEventListener('abort', () => {
          clearTimeout(timer);
          stream.close();
          resolve();
        });
      });
    navigator.locks.request('cendra.events', { signal: leaving.signal }, lead).catch(() => undefined);
    return () => {
      leaving.abort();
      others.close();
    };
  }, [dispatch]);
}

function take(heard: Heard, dispatch: Dispatch): void {
  if (heard.kind === 'again') void dispatch(lookAgain());
  else if (heard.kind === 'dataset') dispatch(datasetHeard(heard.body));
  else if ('again' in heard.body) void dispatch(lookAtRun(heard.body.id));
  else dispatch(runHeard(heard.body));
}

/** For when the server was away: what happened meanwhile nobody told. */
export function useLookAgain(): () => void {
  const dispatch = useAppDispatch();
  return useCallback(() => void dispatch(lookAgain()), [dispatch]);
}

/** Asks for a run this tab knows. */
const lookAtRun =
  (id: string) =>
  async (dispatch: Dispatch, state: () => State): Promise<void> => {
    if (!(id in state().runs)) return;
    const { data } = await dispatch(api.endpoints.runsOne.initiate({ id }, { forceRefetch: true, subscribe: false }));
    if (data) dispatch(runHeard(data));
  };

/** Asks for all that is open here, after events were missed. */
export const lookAgain =
  () =>
  async (dispatch: Dispatch, state: () => State): Promise<void> => {
    const { runs, bench } = state();
    for (const run of Object.values(runs)) if (isOpen(run)) await dispatch(lookAtRun(run.id));
    for (const id of Object.keys(bench ?? {})) {
      const { data } = await dispatch(api.endpoints.datasetsOne.initiate({ id }, { forceRefetch: true, subscribe: false }));
      if (data) dispatch(datasetHeard({ id, revision: data.revision }));
    }
  };
