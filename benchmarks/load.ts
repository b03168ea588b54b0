import { setTimeout as pause } from 'node:timers/promises';
import type { Client, Dataset } from './client';

const READERS = 200;
const RUNS = 10;
const ASKED = 60;
/** A reader looks at a page for so long before the next one, in ms. */
const LOOKS_FOR = 1_000;
/** Between two requests that are measured, in ms. */
const BETWEEN = 50;

export interface Answering {
  readonly median: number;
  readonly slow: number;
}

/**
 * How the list of datasets is answered by an idle server, and while 200 readers page through a result, each from
 * another place and a page a second, and ten runs of a small table start: what a source takes of the same machine for
 * large ones is not the server's. `slow` is the 95th percentile; in ms.
 */
export async function underLoad(
  client: Client,
  dataset: Dataset,
  result: string,
): Promise<{ readonly idle: Answering; readonly busy: Answering }> {
  const idle = await answering(client);
  let going = true;
  const readers = Array.from({ length: READERS }, async (_each, at) => {
    await pause((at / READERS) * LOOKS_FOR);
    // Each begins somewhere else and reads on from there.
    for (let page = at; going; page++) {
      await client.taken(result, page * 100, 100);
      await pause(LOOKS_FOR);
    }
  });
  // All of them read by then.
  await pause(2 * LOOKS_FOR);
  // One after the other over the whole time: none of what is measured is without them.
  const runs = Array.from({ length: RUNS }, async (_each, at) => {
    await pause((at * ASKED * BETWEEN) / RUNS);
    return client.run(dataset, 'head', `load ${at}`);
  });
  const busy = await answering(client);
  going = false;
  await Promise.all([...readers, ...runs]);
  await client.quiet();
  return { idle, busy };
}

async function answering(client: Client): Promise<Answering> {
  const times: number[] = [];
  for (let asked = 0; asked < ASKED; asked++) {
    const began = performance.now();
    await client.datasets();
    times.push(performance.now() - began);
    await pause(BETWEEN);
  }
  const sorted = times.toSorted((a, b) => a - b);
  const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0;
  return { median: at(0.5), slow: at(0.95) };
}
