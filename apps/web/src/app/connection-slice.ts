import { createSlice } from '@reduxjs/toolkit';
import type { PayloadAction } from '@reduxjs/toolkit';

interface Connection {
  /** The server does not answer at the moment. */
  readonly away: boolean;
  /** It answers again and is another one than before: why the one before ended. */
  readonly endedBefore: string | undefined;
  /** Counts the sessions of this page: what waits for one is done again when it changes. */
  readonly session: number;
  /** The session ended without being asked to. */
  readonly signedOut: boolean;
}

const slice = createSlice({
  name: 'connection',
  initialState: { away: false, endedBefore: undefined, session: 0, signedOut: false } as Connection,
  reducers: {
    serverSilent: (state) => ({ ...state, away: true }),
    serverAnswered: (state, { payload }: PayloadAction<{ readonly endedBefore?: string | undefined }>) =>
      state.away ? { ...state, away: false, endedBefore: payload.endedBefore } : state,
    endNoted: (state) => ({ ...state, endedBefore: undefined }),
    /** An answer said that the session in which was asked has ended; one of a session before says nothing of this one. */
    sessionEnded: (state, { payload }: PayloadAction<number>) => (payload === state.session ? { ...state, signedOut: true } : state),
    sessionBegan: (state) => ({ ...state, session: state.session + 1, signedOut: false }),
  },
});

export const { serverSilent, serverAnswered, endNoted, sessionEnded, sessionBegan } = slice.actions;
export const connectionReducer = slice.reducer;
