import { changeAgainst, clock, dated, grouped } from '../src/ui/format';
import { failureOf } from '../src/api/problem';

const thin = '\u202f';

test.each([
  ['1', '1'],
  ['12430', `12${thin}430`],
  ['12345678901234567890', `12${thin}345${thin}678${thin}901${thin}234${thin}567${thin}890`],
])('%s is written %s', (count, shown) => expect(grouped(count)).toBe(shown));

test.each([
  ['8343', '12430', '−33 %'],
  ['3958', '3201', '+24 %'],
  ['12429', '12430', '−0.0 %'],
  ['12430', '12430', ''],
  ['5', '0', ''],
  ['5', undefined, ''],
])('%s against %s is %j', (count, before, shown) => expect(changeAgainst(count, before)).toBe(shown));

test('a moment of today is a time on the screen, of another day a day too, and on paper always both', () => {
  const now = new Date();
  now.setHours(7, 5, 9, 0);
  expect(clock(now.toISOString())).toBe('07:05:09');
  expect(dated(now.toISOString())).toMatch(/^\d+ \w{3,4} \d{4} 07:05:09$/);
  expect(clock(new Date(2025, 3, 3, 14, 30, 1).toISOString())).toBe('3 Apr 2025 14:30');
  expect(dated(new Date(2025, 3, 3, 14, 30, 1).toISOString())).toBe('3 Apr 2025 14:30:01');
});

describe('a failed request', () => {
  test('carries the problems of the answer', () => {
    const problems = [{ code: 'name-taken', severity: 'error', message: 'Taken.', place: {} }];
    expect(failureOf({ status: 409, data: { problems, detail: 'said so' } })).toEqual({ status: 409, problems, detail: 'said so' });
    expect(failureOf({ status: 'PARSING_ERROR', originalStatus: 502, data: JSON.stringify({ problems }) })).toEqual({
      status: 502,
      problems,
    });
  });

  test('without an answer says that what was typed is kept', () => {
    expect(failureOf({ status: 'FETCH_ERROR', error: 'x' })).toMatchObject({ status: 0, problems: [{ code: 'server-silent' }] });
    expect(failureOf(undefined)).toBeUndefined();
  });
});
