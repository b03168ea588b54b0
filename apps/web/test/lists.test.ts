import type { RunDto } from '../src/api';
import { batchWords } from '../src/bench/history/batch-words';
import { repeatedIn, splitValues } from '../src/bench/values/split';
import { valueGiven, valueLeft, valuesReducer } from '../src/bench/values-slice';
import { isOpen, runHeard, runsReducer } from '../src/runs/runs-slice';
import { definition } from '../../../packages/core/test/support/harvests';

describe('values pasted or typed at once', () => {
  test.each([
    ['SM-042\nFN-040\r\nUT-155', ['SM-042', 'FN-040', 'UT-155']],
    ['SM-042\tFN-040', ['SM-042', 'FN-040']],
    ['SM-042, FN-040; UT-155', ['SM-042', 'FN-040', 'UT-155']],
    ['Fennick, north\nOrrin Vale, south', ['Fennick, north', 'Orrin Vale, south']],
    [' SM-042 \n\n', ['SM-042']],
    ['', []],
  ])('%j is %j', (pasted, values) => {
    expect(splitValues(pasted)).toEqual(values);
  });

  test('that stand more than once are told with how often', () => {
    expect(repeatedIn(['a', 'b', 'a', 'A', 'a', 'b'])).toEqual([
      ['a', 3],
      ['b', 2],
    ]);
  });
});

describe('a batch of edits in words', () => {
  const rename = { kind: 'set title' as const, from: 'Harvests', to: 'Yield' };
  const batch = (more: object) => ({ edits: [], ...more }) as unknown as Parameters<typeof batchWords>[0];
  test('is its first edit and how many came with it', () => {
    expect(batchWords(batch({ edits: [rename] }), definition)).toMatch(/Yield/);
    expect(batchWords(batch({ edits: [rename, rename, rename] }), definition)).toMatch(/, and 2 more$/);
    expect(batchWords(batch({ edits: [rename], restores: 4 }), definition)).toBe('went back to revision 4');
    expect(batchWords(batch({}), definition)).toBe('');
  });
});

describe('news of a run', () => {
  const run = (state: RunDto['state'], more: Partial<RunDto> = {}) => ({ id: 'r', state, result: null, counts: null, ...more }) as RunDto;
  const after = (...news: readonly RunDto[]) =>
    news.reduce((state, each) => runsReducer(state, runHeard(each)), {} as Record<string, RunDto>)['r'];
  const counts = [{ step: 't', rows: '12430', failed: '0', fields: [], figures: [] }];

  test('that arrives late does not open an ended run again', () => {
    expect(after(run('running'), run('done'), run('running'), run('waiting'))?.state).toBe('done');
    expect([isOpen(run('waiting')), isOpen(run('running')), isOpen(run('failed')), isOpen(undefined)]).toEqual([true, true, false, false]);
  });

  test('keeps the rows and counts that were known before', () => {
    const result = { id: 'x', rows: '1000' } as RunDto['result'];
    expect(after(run('running', { result }), run('running', { counts }), run('done'))).toMatchObject({ state: 'done', result, counts });
  });
});

test('values too long for the address are kept by dataset and parameter until they are left', () => {
  const given = valuesReducer({}, valueGiven({ dataset: 'd', parameter: 'p', values: ['a', 'b'] }));
  const both = valuesReducer(given, valueGiven({ dataset: 'e', parameter: 'p', values: ['c'] }));
  expect(both).toEqual({ d: { p: ['a', 'b'] }, e: { p: ['c'] } });
  expect(valuesReducer(both, valueLeft({ dataset: 'd', parameter: 'p' }))).toEqual({ d: {}, e: { p: ['c'] } });
  expect(valuesReducer(both, valueLeft({ dataset: 'nowhere', parameter: 'p' }))).toEqual(both);
});
