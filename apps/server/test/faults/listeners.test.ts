import { Listener } from '../../src/events/listener';
import type { Heard } from '../../src/events/listener';

/** Who listens and does not read, or whose rights cannot be told, holds nobody up and is told nothing. */

const line = () => {
  const said: string[] = [];
  return {
    said,
    taking: true,
    destroyed: false,
    get writableLength() {
      return this.taking ? 0 : said.join('').length;
    },
    write: (text: string) => said.push(text),
    destroy() {
      this.destroyed = true;
    },
  };
};
const event = (id: number, size = 0): Heard => ({ kind: 'run', body: { id, note: 'x'.repeat(size) } });
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

test('one that takes nothing is let go of before much is kept for it', async () => {
  const to = line();
  to.taking = false;
  const listener = new Listener(to, () => Promise.resolve(true));
  for (let id = 0; id < 100; id++) {
    listener.hear(event(id, 50_000));
    await settle();
  }
  expect(to.destroyed).toBe(true);
  expect(to.said.join('').length).toBeLessThan(1_200_000);
});

test('one whose rights are never told is let go of, too', () => {
  const to = line();
  const listener = new Listener(to, () => new Promise(() => undefined));
  for (let id = 0; id < 1_000; id++) listener.hear(event(id));
  expect([to.destroyed, to.said]).toEqual([true, []]);
});
