import { createSlice } from '@reduxjs/toolkit';
import type { PayloadAction } from '@reduxjs/toolkit';
import type { RunDto } from '../api';

const ORDER = { waiting: 0, running: 1, done: 2, failed: 2, cancelled: 2 };

/** Runs as last heard of, by id: from the event stream, from starting them, or from asking. */
const slice = createSlice({
  name: 'runs',
  initialState: {} as Record<string, RunDto>,
  reducers: {
    /** News may arrive out of order; an ended run stays ended, and rows and counts once known stay known. */
    runHeard: (state, { payload }: PayloadAction<RunDto>) => {
      const known = state[payload.id];
      if (known && ORDER[known.state] > ORDER[payload.state]) return;
      state[payload.id] = {
        ...payload,
        // Values that are not kept with the run are known only to who began it.
        values: { ...known?.values, ...payload.values },
        result: payload.result ?? known?.result ?? null,
        counts: payload.counts ?? known?.counts ?? null,
      };
      forgetOldest(state);
    },
  },
});

/** So many ended runs are remembered; screens show the newest ones. */
const MOST = 200;

function forgetOldest(runs: Record<string, RunDto>): void {
  const ended = Object.values(runs).filter((each) => ORDER[each.state] === 2);
  if (ended.length <= MOST) return;
  const oldest = ended.toSorted((a, b) => (a.createdAt < b.createdAt ? -1 : 1)).slice(0, ended.length - MOST);
  for (const { id } of oldest) delete runs[id];
}

export const { runHeard } = slice.actions;
export const runsReducer = slice.reducer;
export const isOpen = (run: Pick<RunDto, 'state'> | undefined) => run?.state === 'waiting' || run?.state === 'running';

/** A run whose rows are still arriving as it can be looked at already: with the first ones in the place of all. */
export const withFirstRows = (run: RunDto | undefined): RunDto | undefined =>
  run && isOpen(run) && run.result === null && run.firstRows ? { ...run, result: run.firstRows } : undefined;
