import { RightsClock } from '../src/people';

/** Answers about rights stand for a moment, and never beyond a change of rights. */

const counting = (clock: RightsClock) => {
  let asked = 0;
  return { of: (key: string) => clock.recall(key, async () => ++asked) };
};

test('a burst is one question for each thing asked', async () => {
  const { of } = counting(new RightsClock());
  expect(await Promise.all([of('a'), of('a'), of('b'), of('a')])).toEqual([1, 1, 2, 1]);
});

test('after rights changed everything is asked again', async () => {
  const clock = new RightsClock();
  const { of } = counting(clock);
  await of('a');
  clock.moveOn();
  expect(await of('a')).toBe(2);
});

test('what was asked before rights changed and answered after is not kept', async () => {
  const clock = new RightsClock();
  let answer: (value: string) => void = () => undefined;
  const slow = clock.recall('a', () => new Promise<string>((resolve) => (answer = resolve)));
  clock.moveOn();
  answer('before');
  expect([await slow, await clock.recall('a', async () => 'after')]).toEqual(['before', 'after']);
});

test('an answer is asked again after a second, whatever else was asked meanwhile', async () => {
  jest.useFakeTimers();
  try {
    const { of } = counting(new RightsClock());
    await of('a');
    jest.advanceTimersByTime(600);
    await of('b');
    jest.advanceTimersByTime(600);
    expect(await of('a')).toBe(3);
  } finally {
    jest.useRealTimers();
  }
});

test('a question that failed is asked again', async () => {
  const clock = new RightsClock();
  await expect(clock.recall('a', () => Promise.reject(new Error('away')))).rejects.toThrow('away');
  expect(await clock.recall('a', async () => 'here')).toBe('here');
});
