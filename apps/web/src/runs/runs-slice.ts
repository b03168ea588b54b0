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
      state[payload.id] = { ...payload, result: payload.result ?? known?.result ?? null, counts: payload.counts ?? known?.counts ?? null };
    },
  },
});

export const { runHeard } = slice.actions;
export const runsReducer = slice.reducer;
export const isOpen = (run: RunDto | undefined) => run?.state === 'waiting' || run?.state === 'running';
