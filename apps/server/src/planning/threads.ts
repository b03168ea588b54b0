import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { LIMITS } from '../limits';
import type { ProblemException } from '../problems';
import { refused } from '../problems';
import type { FromThread, ToThread } from './messages';

interface Sent {
  readonly message: ToThread;
  resolve(answer: FromThread): void;
  reject(error: unknown): void;
}

/** One thread: messages wait for one another, and each is answered within the deadline or ends the thread. */
class Thread {
  private readonly worker: Worker;
  private readonly queue: Sent[] = [];
  private current: Sent | undefined;
  private deadline: NodeJS.Timeout | undefined;
  private ready = false;
  ended = false;

  constructor(
    program: string,
    private readonly most: number,
  ) {
    // Deep relations are walked by recursion: a larger stack, and so a larger depth than on the server's own thread.
    this.worker = new Worker(program, { resourceLimits: { maxOldGenerationSizeMb: 512, stackSizeMb: 16 } });
    this.worker.unref();
    this.worker.on('online', () => {
      this.ready = true;
      this.next();
    });
    this.worker.on('message', (answer: FromThread) => this.answered(answer));
    this.worker.on('error', (error) => this.end(lost(error)));
    this.worker.on('exit', () => this.end(lost()));
  }

  get load(): number {
    return this.queue.length + (this.current ? 1 : 0);
  }

  send(message: ToThread): Promise<FromThread> {
    return new Promise((resolve, reject) => {
      this.queue.push({ message, resolve, reject });
      this.next();
    });
  }

  /** What waits and is not wanted any more does not take its turn. */
  drop(id: number): void {
    const at = this.queue.findIndex((each) => each.message.id === id);
    if (at >= 0) this.queue.splice(at, 1)[0]?.reject(stopped());
    if (!this.ended) this.worker.postMessage({ id, say: 'drop' } satisfies ToThread);
  }

  end(reason: ProblemException): void {
    if (this.ended) return;
    this.ended = true;
    clearTimeout(this.deadline);
    void this.worker.terminate();
    const lost = [...(this.current ? [this.current] : []), ...this.queue.splice(0)];
    this.current = undefined;
    for (const each of lost) each.reject(reason);
  }

  private next(): void {
    if (!this.ready || this.current || this.ended) return;
    this.current = this.queue.shift();
    if (!this.current) return;
    this.deadline = setTimeout(() => this.end(tooLong()), this.most);
    this.worker.postMessage(this.current.message);
  }

  private answered(answer: FromThread): void {
    const done = this.current;
    if (done?.message.id !== answer.id) return;
    clearTimeout(this.deadline);
    this.current = undefined;
    done.resolve(answer);
    this.next();
  }
}

export type Say = (message: ToThread) => Promise<FromThread>;

/** The threads large definitions are planned in. They are started when they are first needed. */
export class Threads {
  private threads: Thread[] = [];
  private stopped = false;

  constructor(
    private readonly program = join(__dirname, 'thread.js'),
    private readonly deadline = LIMITS.planningTime.value,
  ) {}

  /** A conversation with one thread: what it was told before it still knows. Rejects when the thread is lost, and when stopped. */
  async with<A>(id: number, signal: AbortSignal, talk: (say: Say) => Promise<A>): Promise<A> {
    const thread = this.take();
    const drop = () => thread.drop(id);
    signal.addEventListener('abort', drop, { once: true });
    try {
      return await talk((message) => (thread.ended ? Promise.reject(lost()) : thread.send(message)));
    } finally {
      signal.removeEventListener('abort', drop);
      drop();
    }
  }

  /** Threads at work. */
  get busy(): number {
    return this.threads.filter((each) => !each.ended && each.load > 0).length;
  }

  stop(): void {
    this.stopped = true;
    for (const each of this.threads) each.end(stopped());
  }

  private take(): Thread {
    if (this.stopped) throw refused(503, 'stopping', 'Cendra is being stopped.', {}, 'to try again in a moment');
    this.threads = this.threads.filter((each) => !each.ended);
    const idle = this.threads.find((each) => each.load === 0);
    if (idle) return idle;
    if (this.threads.length < LIMITS.planningThreads.value) {
      const made = new Thread(this.program, this.deadline);
      this.threads.push(made);
      return made;
    }
    return this.threads.reduce((least, each) => (each.load < least.load ? each : least));
  }
}

export const stopped = () => refused(409, 'run-cancelled', 'The run was stopped.');

const lost = (error?: Error & { readonly code?: string }) =>
  error?.code === 'ERR_WORKER_OUT_OF_MEMORY'
    ? refused(
        422,
        'planning-too-large',
        'Working out what this dataset comes to takes too much memory.',
        {},
        'fewer or shorter expressions',
      )
    : refused(500, 'planning-lost', 'What worked out this dataset ended.', {}, 'to try again', error?.message);

const tooLong = () =>
  refused(
    422,
    'planning-too-long',
    'Working out what this dataset comes to takes too long.',
    {},
    'fewer or shorter expressions, or to try again where others were worked out at the same time',
  );
