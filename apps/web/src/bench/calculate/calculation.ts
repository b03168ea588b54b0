import { wrap } from 'comlink';
import type { Remote } from 'comlink';
import type { Calculation } from './values.worker';

let started: Remote<Calculation> | undefined;

/** The worker that checks and evaluates; one for the page, started when first needed. */
export function calculation(): Remote<Calculation> {
  started ??= wrap<Calculation>(new Worker(new URL('./values.worker.ts', import.meta.url), { type: 'module' }));
  return started;
}
