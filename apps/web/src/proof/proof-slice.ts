import { createSlice } from '@reduxjs/toolkit';
import type { PayloadAction } from '@reduxjs/toolkit';

interface ProofRun {
  /** What its rows depend on. */
  readonly of: string;
  readonly run: string;
}

/** The last full run of each dataset's proof in this tab, so that coming back to it does not ask the sources again. */
const slice = createSlice({
  name: 'proofRuns',
  initialState: {} as Record<string, ProofRun>,
  reducers: {
    proofRan: (state, { payload: { dataset, ...ran } }: PayloadAction<ProofRun & { dataset: string }>) => ({ ...state, [dataset]: ran }),
  },
});

export const { proofRan } = slice.actions;
export const proofRunsReducer = slice.reducer;
