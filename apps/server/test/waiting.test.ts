import { mkdirSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { Recent } from '../src/recent';
import { Engine, Gate, ResultStore } from '../src/engine';
import { LIMITS } from '../src/limits';
import { atMostEvery } from '../src/runs/at-most-every';
import { FirstPages } from '../src/runs/first-pages';
import { SharedWork } from '../src/runs/shared-work';
import { folderFor } from './support/cluster';

/** What is waited for, shared, remembered and limited around runs. */

const never = new AbortController().signal;
/** Lets everything that can happen now happen. */
const settle = () => new Promise((done) => setImmediate(done));

describe('work that several wait for', () => {
  const held = () => {
    const begun: AbortSignal[] = [];
    let finish: (value: string) => void = () => undefined;
    const start = (signal: AbortSignal) => {
      begun.push(signal);
      return new Promise<string>((done, fail) => {
        finish = done;
        signal.addEventListener('abort', () => fail(new Error('stopped')), { once: true });
      });
    };
    return { begun, start, finish: (value: string) => finish(value) };
  };

  test('is done once and given to all', async () => {
    const shared = new SharedWork<string>();
    const { begun, start, finish } = held();
    const all = [shared.do('a', never, start), shared.do('a', never, start)];
    finish('done');
    expect([await Promise.all(all), begun.length, shared.has('a')]).toEqual([['done', 'done'], 1, false]);
  });

  test('goes on while one still waits, and stops when the last has gone', async () => {
    const shared = new SharedWork<string>();
    const { begun, start } = held();
    const [first, second] = [new AbortController(), new AbortController()];
    const waiting = [shared.do('a', first.signal, start), shared.do('a', second.signal, start)];
    first.abort();
    expect(begun[0]?.aborted).toBe(false);
    second.abort();
    expect(begun[0]?.aborted).toBe(true);
    expect((await Promise.allSettled(waiting)).map((each) => each.status)).toEqual(['rejected', 'rejected']);
  });

  test('is begun anew by who comes after all have gone', async () => {
    const shared = new SharedWork<string>();
    const { begun, start, finish } = held();
    const gone = new AbortController();
    const first = shared.do('a', gone.signal, start);
    gone.abort();
    const again = shared.do('a', never, start);
    await expect(first).rejects.toThrow('stopped');
    finish('anew');
    expect([await again, begun.length]).toEqual(['anew', 2]);
  });
});

test('what was used longest ago is forgotten first, and never more is kept than fits', () => {
  const recent = new Recent<string>(10);
  recent.put('a', 'A', 4);
  recent.put('b', 'B', 4);
  expect(recent.get('a')).toBe('A');
  recent.put('c', 'C', 4);
  expect([recent.get('a'), recent.get('b'), recent.get('c')]).toEqual(['A', undefined, 'C']);
  recent.put('a', 'larger', 8);
  expect([recent.get('a'), recent.get('c')]).toEqual(['larger', undefined]);
  recent.put('huge', 'H', 11);
  expect([recent.get('huge'), recent.get('a')]).toEqual([undefined, undefined]);
});

describe('a run that has its rows', () => {
  test('goes on when its first page was read, also when that was before it came to wait', async () => {
    const pages = new FirstPages();
    const waiting = pages.untilRead('r', never);
    pages.read('r');
    await waiting;
  });

  test('goes on when it is stopped, and when nobody reads', async () => {
    const pages = new FirstPages();
    const stop = new AbortController();
    const waiting = pages.untilRead('r', stop.signal);
    stop.abort();
    await waiting;
    await pages.untilRead('nobody', never);
  });
});

test('one enters at once where there is room, and is told where there is none', async () => {
  const gate = new Gate();
  const one = new Map([['source', 1]]);
  const leave = gate.tryEnter(one);
  expect([typeof leave, gate.tryEnter(one)]).toEqual(['function', undefined]);
  const waiting = gate.enter(one, never);
  leave?.();
  (await waiting)();
  expect(gate.tryEnter(one)).toBeDefined();
});

test('all instances of the combine engine together stay within their memory: a further run waits, and one that gives up leaves the line', async () => {
  const folder = folderFor('room');
  const engine = new Engine(join(folder, 'pages'), resolve(__dirname, '../dist/engine/process.js'));
  const most = Math.floor(LIMITS.engineMemory.value / LIMITS.instanceMemory.value) - 2;
  const open = (run: string, signal?: AbortSignal) => engine.do({ work: 'open', run, folder: join(folder, run) }, signal);
  try {
    for (let n = 0; n < most; n++) await open(`run ${n}`);
    const gives = new AbortController();
    const givingUp = open('gives up', gives.signal);
    let opened = false;
    const further = open('further').then(() => (opened = true));
    gives.abort();
    await expect(givingUp).rejects.toMatchObject({ problems: [{ code: 'run-cancelled' }] });
    await settle();
    expect(opened).toBe(false);
    await engine.do({ work: 'close', run: 'run 0' });
    await further;
  } finally {
    await engine.stop();
  }
});

test('what a result takes on disk is everything that was made of it', async () => {
  const folder = folderFor('store');
  const store = new ResultStore(folder);
  const write = (name: string, bytes: number) => writeFileSync(store.file('r', name), 'x'.repeat(bytes));
  mkdirSync(store.rows('r'), { recursive: true });
  write('rows/000000000000.parquet', 100);
  write('rows/000000000100m.parquet', 50);
  expect(await store.sizeOf('r')).toBe(150);
  write('sorted-0a.parquet', 30);
  write('proof-0b.parquet', 7);
  expect(await store.sizeOf('r')).toBe(187);
  expect(await store.sizeOf('unknown')).toBe(0);
});

test('what is told at most so often is told at once, and what came last is told too', () => {
  jest.useFakeTimers();
  try {
    const told: number[] = [];
    let rows = 0;
    const { want, stop } = atMostEvery(300, () => told.push(rows));
    for (rows of [1, 2, 3]) want();
    jest.advanceTimersByTime(299);
    expect(told).toEqual([1]);
    jest.advanceTimersByTime(1_000);
    expect(told).toEqual([1, 3]);
    for (rows of [4, 5]) want();
    stop();
    jest.advanceTimersByTime(1_000);
    expect(told).toEqual([1, 3, 4]);
  } finally {
    jest.useRealTimers();
  }
});
