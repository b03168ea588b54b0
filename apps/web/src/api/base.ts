import type { BaseQueryFn, FetchArgs, FetchBaseQueryError } from '@reduxjs/toolkit/query/react';
import { serverSilent, sessionEnded } from '../app/connection-slice';
import type { State } from '../app/store';
import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react';

/** The token every change carries; it lives as long as the page and is learnt from `me`. */
let csrf = '';

export function rememberCsrf(token: string): void {
  csrf = token;
}

const send = fetchBaseQuery({
  baseUrl: '/',
  credentials: 'same-origin',
  prepareHeaders: (headers) => {
    if (csrf !== '') headers.set('x-cendra-csrf', csrf);
    return headers;
  },
});

/** Every request tells whether the server answers and the session lasts: one that nobody waits for any more tells nothing. */
const query: BaseQueryFn<string | FetchArgs, unknown, FetchBaseQueryError> = async (args, api, extra) => {
  const { session } = (api.getState() as State).connection;
  const answer = await send(args, api, extra);
  if (answer.error?.status === 'FETCH_ERROR' && !api.signal.aborted) api.dispatch(serverSilent());
  if (answer.error?.status === 401 && !api.signal.aborted) api.dispatch(sessionEnded(session));
  return answer;
};

/** The generated endpoints are injected here. */
export const baseApi = createApi({ reducerPath: 'api', baseQuery: query, endpoints: () => ({}), refetchOnMountOrArgChange: 2 });
