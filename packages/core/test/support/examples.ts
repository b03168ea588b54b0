/** Core itself knows nothing of Node; only this line of its tests does. */
declare const process: { readonly env: Readonly<Record<string, string | undefined>> };

/** The seed given for this run of the tests, or `random`. */
export const seed = process.env.CENDRA_SEED ?? '20251125';

/** How many examples a property that asks an engine is tried on; a search for new ones tries four times as many. */
export const examples = (count: number) => ({ numRuns: seed === 'random' ? 4 * count : count });
