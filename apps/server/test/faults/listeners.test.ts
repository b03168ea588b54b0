import { Listener } from '../../src/events/listener';
import { EventsService } from '../../src/events/events.service';
import type { Heard } from '../../src/events/events.service';

/** Who listens and does not read, or whose rights cannot be told, holds nobody up and is told nothing. */

const line = () => {
  const said: string[] = [];
  let drained: (() => void) | undefined;
  return {
    said,
    taking: true,
    destroyed: false,
    get writableLength() {
      return this.taking ? 0 : said.join('').length;
    },
    write: (text: string) => said.push(text),
    once: (_event: string, hear: () => void) => (drained = hear),
    /** Takes what there is. */
    drain() {
      this.taking = true;
      drained?.();
    },
    destroy() {
      this.destroyed = true;
    },
  };
};
const event = (id: number, size = 0): Heard => {
  const body = { id, note: 'x'.repeat(size) };
  return { kind: 'run', body, text: JSON.stringify(body) };
};
const settle = () => new Promise((done) => setImmediate(done));

test('events go out in their order, though the answer about the first takes longest', async () => {
  const to = line();
  const answers: ((may: boolean) => void)[] = [];
  const listener = new Listener(to, () => new Promise((resolve) => answers.push(resolve)));
  listener.hear(event(1));
  listener.hear(event(2));
  await settle();
  answers[0]?.(true);
  await settle();
  answers[1]?.(true);
  await settle();
  expect(to.said.map((each) => /"id":(\d)/.exec(each)?.[1])).toEqual(['1', '2']);
});

test('what may not be known, or of which that cannot be told, is not said, and the next one is', async () => {
  const to = line();
  const answers = [Promise.resolve(false), Promise.reject(new Error('away')), Promise.resolve(true)];
  const listener = new Listener(to, () => answers.shift() ?? Promise.resolve(false));
  for (const id of [1, 2, 3]) listener.hear(event(id));
  await settle();
  await settle();
  expect(to.said).toHaveLength(1);
  expect(to.said[0]).toContain('"id":3');
});

test('one that takes nothing is told no more, and let go of when it still takes nothing', async () => {
  const to = line();
  to.taking = false;
  const listener = new Listener(to, () => Promise.resolve(true));
  for (let id = 0; id < 100; id++) {
    listener.hear(event(id, 10_000));
    await settle();
  }
  expect(to.said.join('').length).toBeLessThan(100_000);
  listener.keepAlive();
  expect(to.destroyed).toBe(false);
  listener.keepAlive();
  expect(to.destroyed).toBe(true);
});

test('one that reads slowly is told to look again', async () => {
  const to = line();
  to.taking = false;
  const listener = new Listener(to, () => Promise.resolve(true));
  for (let id = 0; id < 20; id++) {
    listener.hear(event(id, 10_000));
    await settle();
  }
  to.drain();
  expect(to.said.at(-1)).toBe('event: again\ndata: {}\n\n');
  listener.hear(event(20));
  await settle();
  expect(to.said.at(-1)).toContain('"id":20');
});

test('what is large is only said to be there', () => {
  const events = new EventsService();
  const heard: string[] = [];
  events.for('ana').subscribe(({ text }) => heard.push(text));
  events.tell({ kind: 'run', person: 'ana', body: { id: 'r', note: 'x'.repeat(4_000_000) } });
  events.tell({ kind: 'run', person: 'ben', body: { id: 's' } });
  events.tell({ kind: 'run', person: 'ana', body: { id: 't' } });
  expect(heard).toEqual(['{"id":"r","again":true}', '{"id":"t"}']);
});

test('one whose rights are never told is let go of, too', () => {
  const to = line();
  const listener = new Listener(to, () => new Promise(() => undefined));
  for (let id = 0; id < 1_000; id++) listener.hear(event(id));
  expect([to.destroyed, to.said]).toEqual([true, []]);
});
