import { randomUUID } from 'node:crypto';
import type { Questioning, WantedRows, WireRow } from '@cendra/core';
import { answered, planRows } from '@cendra/core';
import type { Engine, ResultStore } from '../engine';
import type { RunSitesOf } from './run-sites';
import { RunSites } from './run-sites';

/**
 * Carries a question out: each time it wants rows, they are fetched where they live, all from one snapshot of each
 * source. Rejects with a ProblemException, also when stopped; leaves nothing open.
 */
export async function answer<A>(
  question: Questioning<A>,
  of: Omit<RunSitesOf, 'run' | 'folder' | 'onProgress'>,
  engine: Engine,
  store: ResultStore,
): Promise<A> {
  const run = randomUUID();
  const sites = new RunSites({ ...of, run, folder: await store.openRun(run), onProgress: () => undefined }, engine);
  const cancel = () => sites.cancel();
  of.signal.addEventListener('abort', cancel, { once: true });
  try {
    return await answered(question, (wanted) => wantedRows(sites, wanted));
  } finally {
    of.signal.removeEventListener('abort', cancel);
    await sites.close();
    await store.closeRun(run);
  }
}

/** The rows a question wants, as texts. */
export function wantedRows(sites: RunSites, { relation, columns, limit, bound }: WantedRows): Promise<readonly WireRow[]> {
  return sites.few(planRows(relation, columns, limit, sites.dialect.bind(sites)), bound);
}
