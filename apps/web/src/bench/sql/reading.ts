import { wrap } from 'comlink';
import type { Remote } from 'comlink';
import type { Reading } from './reading.worker';

let started: Remote<Reading> | undefined;

/** The worker with the grammar; one for the page, started when a text is first looked at. */
export function reading(): Remote<Reading> {
  started ??= wrap<Reading>(new Worker(new URL('./reading.worker.ts', import.meta.url), { type: 'module' }));
  return started;
}
