import type { BaseQueryFn, FetchArgs, FetchBaseQueryError } from '@reduxjs/toolkit/query/react';
import { serverSilent, sessionEnded } from '../app/connection-slice';
import type { State } from '../app/store';
import { changing } from './csrf';
import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react';

const send = fetchBaseQuery({
  baseUrl: '/',
  credentials: 'same-origin',
  prepareHeaders: (headers) => {
    for (const [name, value] of Object.entries(changing())) headers.set(name, value);
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
