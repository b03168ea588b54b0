import type { Line } from './line';

/**
 * The best of several tries of the same by Cendra and by hand, in ms: what the code can do, with the machine's noise left
 * out. They take turns, for the machine may be faster at one time than at another.
 */
export async function pair(
  tries: number,
  work: () => Promise<unknown>,
  byHand: () => Promise<unknown>,
  between?: () => Promise<unknown>,
): Promise<Pick<Line, 'cendra' | 'reference'>> {
  const least = { cendra: Infinity, reference: Infinity };
  for (let count = 0; count < tries; count++) {
    least.reference = Math.min(least.reference, await timed(byHand));
    least.cendra = Math.min(least.cendra, await timed(work));
    await between?.();
  }
  return least;
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const from = performance.now();
  await work();
  return performance.now() - from;
}
