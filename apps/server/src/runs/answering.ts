import { randomUUID } from 'node:crypto';
import type { Questioning, WantedRows, WireRow } from '@cendra/core';
import { answered, planRows } from '@cendra/core';
import type { Engine, ResultStore } from '../engine';
import type { PlacesOf } from './places';
import { Places } from './places';

/**
 * Carries a question out: each time it wants rows, they are fetched where they live, all from one moment of each
 * source. Rejects with a ProblemException, also when stopped; leaves nothing open.
 */
export async function answer<A>(
  question: Questioning<A>,
  of: Omit<PlacesOf, 'run' | 'folder' | 'onProgress'>,
  engine: Engine,
  store: ResultStore,
): Promise<A> {
  const run = randomUUID();
  const places = new Places({ ...of, run, folder: await store.openRun(run), onProgress: () => undefined }, engine);
  const cancel = () => places.cancel();
  of.signal.addEventListener('abort', cancel, { once: true });
  try {
    return await answered(question, (wanted) => wantedRows(places, wanted));
  } finally {
    of.signal.removeEventListener('abort', cancel);
    await places.close();
    await store.closeRun(run);
  }
}

/** The rows a question wants, as texts. */
export function wantedRows(places: Places, { relation, columns, limit, bound }: WantedRows): Promise<readonly WireRow[]> {
  return places.few(planRows(relation, columns, limit, places.dialect.bind(places)), bound);
}
