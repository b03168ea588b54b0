import { fork } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { dirname, join } from 'node:path';
import { LIMITS } from '../limits';
import { refused } from '../problems';
import type { EngineAnswers, EngineReply, EngineRequest, EngineWork } from './messages';
import { Gate } from './gate';
import { ENGINE_VERSION } from './messages';

/** Instances of runs that fit in the memory besides those of pages and downloads. */
const INSTANCES = new Map([['instance', Math.max(1, Math.floor(LIMITS.engineMemory.value / LIMITS.instanceMemory.value) - 2)]]);
/** One that is at work is asked so often whether it still hears, in ms; one that has just begun may take so long to start. */
const PULSE_EVERY = 3_000;
const STARTS_WITHIN = 60_000;
/** What somebody waits for in front of a screen, and what may take as long as a statement of a source. */
const LOOKS: readonly EngineWork['work'][] = ['open', 'close', 'memory', 'page', 'cell', 'find', 'profile', 'extent'];
const usualTime = (work: EngineWork['work']) => (LOOKS.includes(work) ? LIMITS.engineLookTime : LIMITS.engineWorkTime).value;
const NEVER = new AbortController().signal;

interface Waiting {
  resolve(answer: never): void;
  reject(error: unknown): void;
}

/**
 * The server's side of one engine process: starts it when needed, starts it again after it died, and turns
 * its answers into values or problems. Work under way when it dies fails with `engine-lost`.
 */
export class Engine {
  private child: ChildProcess | undefined;
  /** It has started, and can be asked. */
  private ready = false;
  private readonly waiting = new Map<number, Waiting>();
  private next = 1;
  /** Runs' instances open now: all of them together, with those of pages and downloads, stay within one cap. */
  private readonly room = new Gate();
  private readonly leaving = new Map<string, () => void>();
  private stopped = false;
  private pulse: NodeJS.Timeout | undefined;
  private feeling = false;

  constructor(
    private readonly pagesFolder: string,
    private readonly program = join(__dirname, 'process.js'),
    private readonly timeFor = usualTime,
    private readonly silence = LIMITS.engineSilence.value,
  ) {}

  /** For tests and health: the process now running. */
  get pid(): number | undefined {
    return this.child?.pid;
  }

  /** Bytes of memory its process takes; nothing while there is none. */
  async memory(): Promise<number> {
    return this.child ? this.ask({ work: 'memory' }) : 0;
  }

  start(): void {
    if (!this.child) this.spawn();
  }

  /** Opening an instance waits until there is memory for it. */
  async do<W extends EngineWork['work']>(task: EngineWork & { work: W }, signal?: AbortSignal): Promise<EngineAnswers[W]> {
    const work: EngineWork = task;
    if (work.work === 'open') this.leaving.set(work.run, await this.enter(signal));
    try {
      return await this.ask<W>(task as EngineWork & { work: W }, signal);
    } catch (error) {
      if (work.work === 'open') this.leave(work.run);
      throw error;
    } finally {
      if (work.work === 'close') this.leave(work.run);
    }
  }

  private async enter(signal: AbortSignal | undefined): Promise<() => void> {
    try {
      return await this.room.enter(INSTANCES, signal ?? NEVER);
    } catch (error) {
      throw signal?.aborted ? refused(409, 'run-cancelled', 'The run was stopped.') : error;
    }
  }

  private leave(run: string): void {
    this.leaving.get(run)?.();
    this.leaving.delete(run);
  }

  private ask<W extends EngineWork['work']>(task: EngineWork & { work: W }, signal?: AbortSignal): Promise<EngineAnswers[W]> {
    if (this.stopped) return Promise.reject(lost());
    if (signal?.aborted) return Promise.reject(refused(409, 'run-cancelled', 'The run was stopped.'));
    const child = this.child ?? this.spawn();
    const id = this.next++;
    const cancel = () => this.send(child, { id: this.next++, task: { work: 'cancel', request: id } });
    signal?.addEventListener('abort', cancel, { once: true });
    let late = false;
    const deadline = setTimeout(() => {
      late = true;
      cancel();
    }, this.timeFor(task.work));
    this.pulse ??= setInterval(() => this.feel(), PULSE_EVERY);
    const answer = new Promise<EngineAnswers[W]>((resolve, reject) => {
      this.waiting.set(id, { resolve: resolve as Waiting['resolve'], reject });
      this.send(child, { id, task });
    });
    return answer
      .catch((error: unknown) => {
        throw late && !signal?.aborted ? tooSlow() : error;
      })
      .finally(() => {
        clearTimeout(deadline);
        signal?.removeEventListener('abort', cancel);
      });
  }

  async stop(): Promise<void> {
    this.stopped = true;
    clearInterval(this.pulse);
    const { child } = this;
    if (!child || child.exitCode !== null) return;
    const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()));
    child.kill('SIGKILL');
    await ended;
  }

  /**
   * Whether the process still hears: its work is done in threads of its own, so it always has a moment to say so. One that
   * does not has stopped altogether, and everything that waits for it would wait for ever.
   */
  private feel(): void {
    const { child } = this;
    if (!child || this.waiting.size === 0) {
      clearInterval(this.pulse);
      this.pulse = undefined;
      return;
    }
    if (this.feeling) return;
    const id = this.next++;
    const silent = setTimeout(() => child.kill('SIGKILL'), this.ready ? this.silence : STARTS_WITHIN);
    const heard = () => {
      clearTimeout(silent);
      this.feeling = false;
    };
    this.feeling = true;
    this.waiting.set(id, { resolve: heard, reject: heard });
    this.send(child, { id, task: { work: 'memory' } });
  }

  private send(child: ChildProcess, request: EngineRequest): void {
    if (child.connected) child.send(request);
  }

  private spawn(): ChildProcess {
    const child = fork(this.program, {
      serialization: 'advanced',
      env: {
        PATH: process.env.PATH,
        UV_THREADPOOL_SIZE: '16',
        ENGINE_MEMORY: `${Math.round(LIMITS.instanceMemory.value / 1e6)}MB`,
        ENGINE_SPILL: `${Math.round(LIMITS.engineSpill.value / 1e6)}MB`,
        ENGINE_PAGES: this.pagesFolder,
      },
      execArgv: [],
    });
    this.child = child;
    this.ready = false;
    child.on('message', (reply: EngineReply) => this.receive(child, reply));
    child.on('error', () => this.ended(child));
    child.on('exit', () => this.ended(child));
    return child;
  }

  private ended(child: ChildProcess): void {
    if (this.child !== child) return;
    this.child = undefined;
    // Its instances ended with it.
    for (const run of [...this.leaving.keys()]) this.leave(run);
    const open = [...this.waiting.values()];
    this.waiting.clear();
    for (const each of open) each.reject(lost());
  }

  private receive(child: ChildProcess, reply: EngineReply): void {
    if ('ready' in reply) {
      if (reply.ready !== ENGINE_VERSION) child.kill('SIGKILL');
      this.ready = this.child === child;
      return;
    }
    const waiting = this.waiting.get(reply.id);
    this.waiting.delete(reply.id);
    if (!waiting) return;
    if (reply.ok) waiting.resolve(reply.answer as never);
    else waiting.reject(problemOf({ ...reply, message: reply.message.replaceAll(dirname(this.pagesFolder), '…') }));
  }
}

const tooSlow = () =>
  refused(504, 'engine-slow', 'The combine engine took too long for this.', {}, 'fewer rows or fields, or to try again');

const lost = () =>
  refused(503, 'engine-lost', 'The combine engine stopped in the middle of this work.', {}, 'run again; it has been started anew');

function problemOf(reply: Extract<EngineReply, { ok: false }>) {
  if (reply.code === 'engine-cancelled') return refused(409, 'run-cancelled', 'The run was stopped.');
  if (reply.code === 'engine-lost') return lost();
  if (reply.code === 'engine-full')
    return refused(507, 'engine-full', 'The combine engine ran out of memory or disk.', {}, 'a narrower question', reply.message);
  if (reply.code === 'engine-range')
    return refused(
      422,
      'figure-too-large',
      'A figure has more than the 38 digits the combine engine holds.',
      {},
      'to leave out the total or the calculation it comes from',
      reply.message,
    );
  return refused(500, 'engine-failed', 'The combine engine could not do this.', {}, undefined, reply.message);
}
