import { createSlice } from '@reduxjs/toolkit';
import type { PayloadAction } from '@reduxjs/toolkit';

interface Connection {
  /** The server does not answer at the moment. */
  readonly away: boolean;
  /** It answers again and is another one than before: why the one before ended. */
  readonly endedBefore: string | undefined;
}

const slice = createSlice({
  name: 'connection',
  initialState: { away: false, endedBefore: undefined } as Connection,
  reducers: {
    serverSilent: (state) => ({ ...state, away: true }),
    serverAnswered: (state, { payload }: PayloadAction<{ readonly endedBefore?: string | undefined }>) =>
      state.away ? { away: false, endedBefore: payload.endedBefore } : state,
    endNoted: (state) => ({ ...state, endedBefore: undefined }),
  },
});

export const { serverSilent, serverAnswered, endNoted } = slice.actions;
export const connectionReducer = slice.reducer;
