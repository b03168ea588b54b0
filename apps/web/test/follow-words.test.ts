import type { FollowedStep, SummariseStep } from '@cendra/core';
import { COMMON_CALENDAR } from '@cendra/core';
import { followWords } from '../src/bench/follow/use-follow';

const key = (name: string, text: string) => ({ id: name, name, expression: { text, refs: [] } });
const summary = { keys: [key('region', 'region'), key('month', 'start_of_month(picked_on)')] } as unknown as SummariseStep;
const counted = (...group: readonly (string | null)[]): FollowedStep => {
  const values = [group.map((value, at) => ({ name: `k${at}`, value }))];
  return { step: 's', arrived: 1, present: 1, dropped: [], values } as unknown as FollowedStep;
};

test('a row is counted into its group, whose days are read as the stretch they begin', () => {
  expect(followWords(counted('Fennick', '2024-05-01', '12.5'), COMMON_CALENDAR, summary)).toBe('counted into Fennick, May 2024');
  expect(followWords(counted('Fennick', null), COMMON_CALENDAR, summary)).toBe('counted into Fennick, null');
  expect(followWords(counted(), COMMON_CALENDAR, { ...summary, keys: [] })).toBe('counted into the only row');
  const season = { keys: [key('season', 'start_of_season(picked_on)')] } as unknown as SummariseStep;
  expect(followWords(counted('2024-04-01'), COMMON_CALENDAR, season)).toBe('counted into season of 2024');
  const quarter = { keys: [key('quarter', 'start_of_quarter(picked_on)')] } as unknown as SummariseStep;
  expect(followWords(counted('2024-04-01'), COMMON_CALENDAR, quarter)).toBe('counted into Q2 2024');
  expect(followWords(counted('2024-04-01'), { ...COMMON_CALENDAR, firstMonthOfYear: 4 }, quarter)).toBe('counted into Q1 2024');
});
