import { setTimeout as pause } from 'node:timers/promises';
import type { RunningServer } from './server';

/** Between an end and the next start, in ms: doubled each time it ended again soon, up to the last one. */
const FIRST_PAUSE = 1_000;
const LONGEST_PAUSE = 30_000;
/** A server that ran so long, in ms, had started well. */
const WELL = 60_000;

interface Supervision {
  readonly pauses?: { readonly first: number; readonly longest: number };
  /** Told in words what happened. */
  say(text: string): void;
}

/** A server that is started again when it ends by itself, each time after a longer pause, and why it ended is said. */
export async function supervised(
  start: (endedBefore?: string) => Promise<RunningServer>,
  { pauses, say }: Supervision,
): Promise<RunningServer> {
  const { first, longest } = pauses ?? { first: FIRST_PAUSE, longest: LONGEST_PAUSE };
  const stopping = new AbortController();
  let server = await start();
  const keeping = (async () => {
    for (let wait = first; ;) {
      const since = Date.now();
      const why = await ended(server);
      if (stopping.signal.aborted) return;
      if (Date.now() - since > WELL) wait = first;
      say(`The server ended: ${why}. It is started again in ${Math.round(wait / 100) / 10} s.`);
      for (;;) {
        await pause(wait, undefined, { signal: stopping.signal }).catch(() => undefined);
        if (stopping.signal.aborted) return;
        wait = Math.min(longest, wait * 2);
        try {
          server = await start(why);
          say('The server runs again.');
          break;
        } catch (error) {
          say(
            `The server could not be started: ${error instanceof Error ? error.message : String(error)} It is tried again in ${wait / 1000} s.`,
          );
        }
      }
    }
  })();
  return {
    address: server.address,
    get process() {
      return server.process;
    },
    stop: async () => {
      stopping.abort();
      await server.stop();
      await keeping;
    },
  };
}

/** Settles when the process has ended, with why. */
function ended({ process }: RunningServer): Promise<string> {
  const why = (code: number | null, signal: string | null) => (signal ? `it was stopped by ${signal}` : `with code ${code}`);
  if (process.exitCode !== null || process.signalCode !== null) return Promise.resolve(why(process.exitCode, process.signalCode));
  return new Promise((resolve) => process.once('exit', (code, signal) => resolve(why(code, signal))));
}
