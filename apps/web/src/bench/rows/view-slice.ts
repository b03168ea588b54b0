import { createSlice } from '@reduxjs/toolkit';
import type { PayloadAction } from '@reduxjs/toolkit';
import type { RowsView } from './view';

/** How the rows of each step are looked at, by dataset and step; it lasts as long as the tab. */
const slice = createSlice({
  name: 'rowsViews',
  initialState: {} as Record<string, RowsView>,
  reducers: {
    viewed: (_state, { payload: { key, view } }: PayloadAction<{ key: string; view: RowsView }>) => ({ ..._state, [key]: view }),
  },
});

export const { viewed } = slice.actions;
export const rowsViewsReducer = slice.reducer;
