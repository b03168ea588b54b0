import { useEffect } from 'react';
import type { RunDto } from '../api';
import { runHeard } from '../runs/runs-slice';
import { datasetHeard } from '../bench/bench-slice';
import type { Dispatch } from './store';
import { useAppDispatch } from './store';

type Heard =
  | { readonly kind: 'run'; readonly body: RunDto }
  | { readonly kind: 'dataset'; readonly body: { id: string; revision: number; editId: string } };

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
        const stream = new EventSource('/api/events');
        for (const kind of ['run', 'dataset'] as const) {
          stream.addEventListener(kind, (event: MessageEvent<string>) => {
            const heard = { kind, body: JSON.parse(event.data) as never } as Heard;
            take(heard, dispatch);
            others.postMessage(heard);
          });
        }
        leaving.signal.addEventListener('abort', () => {
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
  if (heard.kind === 'run') dispatch(runHeard(heard.body));
  else dispatch(datasetHeard(heard.body));
}
