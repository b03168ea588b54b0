import { parentPort } from 'node:worker_threads';
import { ProblemError } from '@cendra/core';
import { Recent } from '../recent';
import type { FromThread, ToThread } from './messages';
import type { Subject } from './subject';
import type { Planning, WorkName } from './work';
import { WORK } from './work';

/** The program of a planning thread: one piece of work after another, each as far as it comes without rows. */

const under = new Map<number, Planning<unknown>>();
/** Subjects seen last, so that each is checked once here although every message brings a copy. */
const subjects = new Recent<Subject>(16);

parentPort?.on('message', (message: ToThread) => {
  const answer = next(message);
  if (answer) parentPort?.postMessage(answer);
});

function next(message: ToThread): FromThread | undefined {
  const { id } = message;
  if (message.say === 'drop') {
    under.delete(id);
    return undefined;
  }
  try {
    const planning = message.say === 'begin' ? begin(message.work, message.given) : under.get(id);
    if (!planning) return undefined;
    const step = message.say === 'begin' ? planning.next() : planning.next(message.rows);
    if (step.done) under.delete(id);
    else under.set(id, planning);
    return step.done ? { id, say: 'answer', answer: step.value } : { id, say: 'ask', asked: step.value };
  } catch (error) {
    under.delete(id);
    if (error instanceof ProblemError) return { id, say: 'refuse', problems: error.problems };
    if (isTooDeep(error)) return { id, say: 'too deep' };
    return { id, say: 'fail', message: error instanceof Error ? (error.stack ?? error.message) : String(error) };
  }
}

function begin(work: WorkName, given: object): Planning<unknown> {
  const { subject, others } = given as { readonly subject?: Subject; readonly others?: ReadonlyMap<string, { readonly subject: Subject }> };
  const known = others && new Map([...others].map(([id, each]) => [id, { ...each, subject: seen(each.subject) }]));
  return (WORK[work] as (given: object) => Planning<unknown>)({
    ...given,
    ...(subject ? { subject: seen(subject) } : {}),
    ...(known ? { others: known } : {}),
  });
}

function seen(subject: Subject): Subject {
  const known = subjects.get(String(subject.id));
  if (known) return known;
  subjects.put(String(subject.id), subject, 1);
  return subject;
}

/** The runtime says only so that a recursion went too deep. */
const isTooDeep = (error: unknown) => error instanceof RangeError && error.message.includes('call stack');
