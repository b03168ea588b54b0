import { randomUUID } from 'node:crypto';
import type { Engine, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import type { Answerable, Planner } from '../planning';
import type { RunSitesOf } from './run-sites';
import { RunSites } from './run-sites';

/**
 * Carries a question out: each time it wants rows, they are fetched where they live, all from one snapshot of each
 * source. Rejects with a ProblemException, also when stopped; leaves nothing open.
 */
export async function answer(
  given: Answerable,
  of: Omit<RunSitesOf, 'run' | 'folder' | 'bytes' | 'onProgress'>,
  planner: Planner,
  engine: Engine,
  store: ResultStore,
): Promise<object> {
  const run = randomUUID();
  const sites = new RunSites(
    { ...of, run, folder: await store.openRun(run), bytes: LIMITS.resultBytes.value, onProgress: () => undefined },
    engine,
  );
  const cancel = () => sites.cancel();
  of.signal.addEventListener('abort', cancel, { once: true });
  try {
    return await planner.do('answer', given, of.signal, async ({ plan, bound, expected }) => {
      if (!expected) return sites.few(plan, bound);
      const rows = await sites.expected(plan);
      return rows === undefined ? [] : [[String(rows)]];
    });
  } finally {
    of.signal.removeEventListener('abort', cancel);
    await sites.close();
    await store.closeRun(run);
  }
}
