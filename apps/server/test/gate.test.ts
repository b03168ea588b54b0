import { Gate } from '../src/engine/gate';

const keys = (...names: string[]) => new Map(names.map((each) => [each, 1]));
const never = new AbortController().signal;
/** Lets everything that can happen now happen. */
const settle = () => new Promise((resolve) => setImmediate(resolve));

test('lets in as many as there is room for, and the next in order when one leaves', async () => {
  const gate = new Gate();
  const order: string[] = [];
  const first = await gate.enter(keys('source'), never);
  const second = gate.enter(keys('source'), never).then((leave) => (order.push('second'), leave));
  const third = gate.enter(keys('source'), never).then((leave) => (order.push('third'), leave));
  await settle();
  expect(order).toEqual([]);
  first();
  (await second)();
  (await third)();
  expect(order).toEqual(['second', 'third']);
});

test('one that waits for another key does not hold up those behind it', async () => {
  const gate = new Gate();
  const a = await gate.enter(keys('a'), never);
  let entered = false;
  void gate.enter(keys('a', 'b'), never).then(() => (entered = true));
  const b = await gate.enter(keys('b'), never);
  expect(entered).toBe(false);
  a();
  b();
  await settle();
  expect(entered).toBe(true);
});

test('one that gives up leaves the line, and leaving twice frees one place only', async () => {
  const gate = new Gate();
  const giving = new AbortController();
  const first = await gate.enter(keys('a'), never);
  const waiting = gate.enter(keys('a'), giving.signal);
  giving.abort();
  await expect(waiting).rejects.toBeDefined();
  first();
  first();
  const second = await gate.enter(keys('a'), never);
  let third = false;
  void gate.enter(keys('a'), never).then(() => (third = true));
  await settle();
  expect(third).toBe(false);
  second();
});
