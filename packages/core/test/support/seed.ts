import fc from 'fast-check';
import { seed } from './examples';

/**
 * Generated examples are the same at every run, so that a failure belongs to a change. `CENDRA_SEED=random`
 * looks for new ones, a number repeats a run.
 */
if (seed !== 'random') fc.configureGlobal({ seed: Number(seed) });
