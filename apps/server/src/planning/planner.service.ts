import type { OnApplicationShutdown } from '@nestjs/common';
import { Injectable } from '@nestjs/common';
import type { Definition, ReadDefinition, TrailOutline, WireRow } from '@cendra/core';
import { ProblemError } from '@cendra/core';
import { ProblemException, refused, statusOf } from '../problems';
import type { FromThread } from './messages';
import type { Edited } from './editing';
import type { WriteStatement } from './statements';
import type { Subject } from './subject';
import { trailOf, weightOf } from './subject';
import { stopped, Threads } from './threads';
import type { Asked, Given, Planning, WorkAnswer, WorkGiven, WorkName } from './work';
import { WORK } from './work';

export type RowsOf = (asked: Asked) => Promise<readonly WireRow[]>;

/** What is no heavier takes a few milliseconds, less than a copy sent to a thread and back. */
const LIGHT = 4_000;

const NEVER = new AbortController().signal;
const NO_ROWS: RowsOf = () => Promise.reject(new RangeError('this work needs no rows'));

/**
 * Checks and plans. What is light is done here at once; what may take longer is done in a thread, so that nobody else
 * waits for it, with a deadline. Rejects with a ProblemException, also for what does not fit and when stopped.
 */
@Injectable()
export class Planner implements OnApplicationShutdown {
  private readonly threads = new Threads();
  private next = 1;

  async do<W extends WorkName>(work: W, given: WorkGiven<W>, signal: AbortSignal, rowsOf: RowsOf = NO_ROWS): Promise<WorkAnswer<W>> {
    try {
      return await (weighsMuch(given) ? this.inThread(work, given, signal, rowsOf) : here(work, given, rowsOf));
    } catch (error) {
      throw error instanceof ProblemError ? new ProblemException(statusOf(error.problems), error.problems) : error;
    }
  }

  /** Steps, fields and problems. */
  async outline(subject: Subject, signal: AbortSignal): Promise<TrailOutline> {
    if (!isHeavy(subject)) return trailOf(subject);
    // Several wait for one: whoever goes away does not stop it.
    const outline = outlines.get(subject) ?? this.do('outline', { subject }, NEVER);
    outlines.set(subject, outline);
    outline.catch(() => outlines.delete(subject));
    return unlessStopped(outline, signal);
  }

  /** A document as it is stored, read. */
  read(document: unknown): Promise<ReadDefinition> {
    return this.do('read', { document, heavy: isLarge(document) }, NEVER);
  }

  edit(definition: Definition, edits: readonly object[]): Promise<Edited> {
    return this.do('edit', { definition, edits, heavy: isLarge(definition) || isLarge(edits) }, NEVER);
  }

  /** How the statements of a subject's plans are written. */
  writes({ subject, kinds }: Pick<Given, 'subject' | 'kinds'>, signal: AbortSignal): WriteStatement {
    const heavy = isHeavy(subject);
    return (wanted) => this.do('statement', { ...wanted, kinds, heavy }, signal);
  }

  /** Threads at work. */
  get busy(): number {
    return this.threads.busy;
  }

  onApplicationShutdown(): void {
    this.threads.stop();
  }

  private inThread<W extends WorkName>(work: W, given: WorkGiven<W>, signal: AbortSignal, rowsOf: RowsOf): Promise<WorkAnswer<W>> {
    const id = this.next++;
    const talking = this.threads.with(id, signal, async (say) => {
      let answer = await say({ id, say: 'begin', work, given });
      while (answer.say === 'ask') {
        const rows = await rowsOf(answer.asked);
        answer = await say({ id, say: 'rows', rows });
      }
      return settled(answer) as WorkAnswer<W>;
    });
    return unlessStopped(talking, signal);
  }
}

/** What is larger, as JSON, is read and edited in a thread. */
const LARGE = 200_000;

const isLarge = (document: unknown) => JSON.stringify(document).length > LARGE;

/** Of heavy subjects, which are asked about several times. */
const outlines = new WeakMap<Subject, Promise<TrailOutline>>();
const weights = new WeakMap<Subject, number>();

function weighsMuch(given: WorkGiven<WorkName>): boolean {
  if ('heavy' in given) return given.heavy;
  const others = 'others' in given ? [...given.others.values()] : [];
  return [given, ...others].some(({ subject }) => isHeavy(subject));
}

function isHeavy(subject: Subject): boolean {
  const weight = weights.get(subject) ?? weightOf(subject);
  weights.set(subject, weight);
  return weight > LIGHT;
}

async function here<W extends WorkName>(work: W, given: WorkGiven<W>, rowsOf: RowsOf): Promise<WorkAnswer<W>> {
  const planning = (WORK[work] as (given: WorkGiven<W>) => Planning<WorkAnswer<W>>)(given);
  let step = planning.next();
  while (!step.done) step = planning.next(await rowsOf(step.value));
  return step.value;
}

function settled(answer: Exclude<FromThread, { say: 'ask' }>): unknown {
  switch (answer.say) {
    case 'answer':
      return answer.answer;
    case 'refuse':
      throw new ProblemException(statusOf(answer.problems), answer.problems);
    case 'too deep':
      throw refused(422, 'definition-too-deep', 'Too much stands on one another in this dataset.', {}, 'fewer steps that build on others');
    case 'fail':
      throw new Error(answer.message);
  }
}

function unlessStopped<A>(work: Promise<A>, signal: AbortSignal): Promise<A> {
  if (signal.aborted) {
    work.catch(() => undefined);
    return Promise.reject(stopped());
  }
  return new Promise((resolve, reject) => {
    const stop = () => reject(stopped());
    signal.addEventListener('abort', stop, { once: true });
    work.then(resolve, reject).finally(() => signal.removeEventListener('abort', stop));
  });
}
