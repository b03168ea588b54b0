import type { RunDto } from '../src/api';
import { runHeard, runsReducer, withFirstRows } from '../src/runs/runs-slice';

/** What the browser knows of runs: the newest of each, no more than it shows. */

const run = (id: string, change: Partial<RunDto> = {}): RunDto =>
  ({ id, state: 'running', values: {}, counts: null, result: null, createdAt: '2025-06-01T10:00:00Z', ...change }) as RunDto;
const after = (...heard: RunDto[]) =>
  heard.reduce((state, each) => runsReducer(state, runHeard(each)), runsReducer(undefined, { type: '' }));

test('news that comes late does not open an ended run again', () => {
  expect(after(run('a', { state: 'done' }), run('a')).a?.state).toBe('done');
});

test('values that are not kept with the run stay known to who began it', () => {
  const heard = after(run('a', { values: { pin: ['7'] } }), run('a', { state: 'done', values: { season: ['2025'] } }));
  expect(heard.a?.values).toEqual({ pin: ['7'], season: ['2025'] });
});

test('the oldest ended runs are forgotten, one under way never', () => {
  const at = (minute: number) => new Date(Date.UTC(2025, 5, 1, 10, minute)).toISOString();
  const ended = Array.from({ length: 250 }, (_each, n) => run(`e${n}`, { state: 'done', createdAt: at(n + 1) }));
  const heard = after(run('open', { createdAt: at(0) }), ...ended);
  expect(Object.keys(heard)).toHaveLength(201);
  expect(heard.open).toBeDefined();
  expect(heard.e49).toBeUndefined();
  expect(heard.e50).toBeDefined();
});

test('rows that came before the others are looked at until all are there, or the run has ended without them', () => {
  const [few, all] = [{ id: 'few' }, { id: 'all' }] as unknown as [RunDto['result'], RunDto['result']];
  expect(withFirstRows(run('a', { firstRows: few }))?.result).toBe(few);
  expect(withFirstRows(run('a', { firstRows: few, result: all }))).toBeUndefined();
  expect(withFirstRows(run('a', { state: 'failed', firstRows: few }))).toBeUndefined();
  expect(withFirstRows(run('a'))).toBeUndefined();
});
