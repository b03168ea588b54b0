import { createSlice } from '@reduxjs/toolkit';
import type { PayloadAction } from '@reduxjs/toolkit';

/** Values too long or too private for the address, by dataset and parameter. They live as long as the page. */
const slice = createSlice({
  name: 'values',
  initialState: {} as Record<string, Record<string, readonly string[]>>,
  reducers: {
    valueGiven: (state, { payload }: PayloadAction<{ dataset: string; parameter: string; values: readonly string[] }>) => {
      (state[payload.dataset] ??= {})[payload.parameter] = payload.values as string[];
    },
    valueLeft: (state, { payload }: PayloadAction<{ dataset: string; parameter: string }>) => {
      delete state[payload.dataset]?.[payload.parameter];
    },
  },
});

export const { valueGiven, valueLeft } = slice.actions;
export const valuesReducer = slice.reducer;
