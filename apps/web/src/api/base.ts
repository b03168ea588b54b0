import type { BaseQueryFn, FetchArgs, FetchBaseQueryError } from '@reduxjs/toolkit/query/react';
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

const query: BaseQueryFn<string | FetchArgs, unknown, FetchBaseQueryError> = (args, api, extra) => send(args, api, extra);

/** The generated endpoints are injected here. */
export const baseApi = createApi({ reducerPath: 'api', baseQuery: query, endpoints: () => ({}), refetchOnMountOrArgChange: 2 });
