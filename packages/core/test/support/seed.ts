import fc from 'fast-check';

/** Core itself knows nothing of Node; only this line of its tests does. */
declare const process: { readonly env: Readonly<Record<string, string | undefined>> };

/**
 * Generated examples are the same at every run, so that a failure belongs to a change. `CENDRA_SEED=random`
 * looks for new ones, a number repeats a run.
 */
const given = process.env.CENDRA_SEED ?? '20251125';
if (given !== 'random') fc.configureGlobal({ seed: Number(given) });
