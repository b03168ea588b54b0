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
 * How the list of datasets is answered by an idle server, and while 200 readers page through a result, each a page a
 * second, and ten runs start. `slow` is the 95th percentile; in ms.
 */
export async function underLoad(
  client: Client,
  dataset: Dataset,
  result: string,
  rows: number,
): Promise<{ readonly idle: Answering; readonly busy: Answering }> {
  const idle = await answering(client);
  let going = true;
  const readers = Array.from({ length: READERS }, async (_each, at) => {
    await pause((at / READERS) * LOOKS_FOR);
    while (going) {
      await client.page(result, Math.floor(Math.random() * (rows - 100)), 100, '');
      await pause(LOOKS_FOR);
    }
  });
  const runs = Array.from({ length: RUNS }, (_each, at) => client.run(dataset, 'head', `load ${at}`));
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
