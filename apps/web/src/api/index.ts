import { api as generated } from './client.gen';

export { rememberCsrf } from './base';
export type * from './client.gen';

/** Edits answer with the dataset itself, and runs arrive as events: neither makes lists load again by itself. */
export const api = generated.enhanceEndpoints({
  endpoints: {
    datasetsEdit: { invalidatesTags: [] },
    runsStart: { invalidatesTags: [] },
    runsCancel: { invalidatesTags: [] },
    peopleSignIn: { invalidatesTags: [] },
    peopleSignOut: { invalidatesTags: [] },
    sourcesTry: { invalidatesTags: [] },
  },
});
