import type { Answers, Question } from '@cendra/core';
import type { DatasetDto, EditsDto, ProblemDto, ProofDto, QuestionDto } from './client.gen';
import { api as generated } from './client.gen';

export { rememberCsrf } from './csrf';
export type * from './client.gen';

/** Edits answer with the dataset itself, and runs arrive as events: neither makes lists load again by itself. */
const enhanced = generated.enhanceEndpoints({
  endpoints: {
    datasetsEdit: { invalidatesTags: [] },
    runsStart: { invalidatesTags: [] },
    runsCancel: { invalidatesTags: [] },
    lastValuesKeep: { invalidatesTags: [] },
    peopleSignIn: { invalidatesTags: [] },
    peopleSignOut: { invalidatesTags: [] },
    sourcesTry: { invalidatesTags: [] },
    proofBehind: { invalidatesTags: [] },
    routinesTryOut: { invalidatesTags: [] },
    keptRoutinesPreview: { invalidatesTags: [] },
  },
});

/** A question, and under what its answer is remembered: everything the answer depends on but the question itself. */
export interface AskedQuestion extends Omit<QuestionDto, 'question'> {
  readonly question: Question;
  readonly inputs: string;
}

/** A result read by the proof of a revision; `drawn`, only what its chart draws. */
export interface AskedProof {
  readonly result: string;
  readonly dataset: string;
  readonly revision: number;
  readonly drawn?: true;
}

export const api = enhanced.injectEndpoints({
  endpoints: (build) => ({
    /** The lines of a result by the layout of a revision: made once, then remembered by the server. */
    proof: build.query<ProofDto, AskedProof>({
      query: ({ result, drawn, ...body }) => ({ url: `/api/results/${result}/proofs${drawn ? '/chart' : ''}`, method: 'POST', body }),
    }),
    /** What is off in the rows of a result, as the layout of a revision reads them. */
    foundInRows: build.query<readonly ProblemDto[], AskedProof>({
      query: ({ result, drawn: _drawn, ...body }) => ({ url: `/api/results/${result}/proofs/findings`, method: 'POST', body }),
    }),
    /** An edit of a dataset that is not open: its list is read again. */
    datasetsRename: build.mutation<DatasetDto, { readonly id: string; readonly editsDto: EditsDto }>({
      query: ({ id, editsDto }) => ({ url: `/api/datasets/${id}/edits`, method: 'POST', body: editsDto }),
      invalidatesTags: ['datasets'],
    }),
    answer: build.query<Answers[Question['kind']], AskedQuestion>({
      query: ({ inputs: _inputs, ...body }) => ({ url: '/api/answers', method: 'POST', body }),
      serializeQueryArgs: ({ queryArgs: { dataset, inputs, question } }) => JSON.stringify([dataset, inputs, question]),
      keepUnusedDataFor: 300,
    }),
  }),
});
