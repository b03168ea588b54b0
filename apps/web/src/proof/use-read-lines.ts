import { useCallback, useEffect, useRef } from 'react';
import type { AskedProof } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { useAppDispatch } from '../app/store';
import type { Page } from '../bench/rows/use-pages';
import { PAGE } from '../bench/rows/use-pages';

/** What a proof was asked for with; the server makes it again from this when it no longer has it. */
export type ProofAsked = AskedProof;

/**
 * Reads pages of a proof's lines; gives nothing for a page that could not be read. A server that was started anew,
 * or that dropped the oldest proofs of a result, answers that there is none: then it is made again first.
 */
export function useReadLines(asked: ProofAsked, key: string) {
  const { result } = asked;
  const dispatch = useAppDispatch();
  // A newer revision with the same lines is no reason to read them again.
  const newest = useRef(asked);
  useEffect(() => {
    newest.current = asked;
  });
  return useCallback(
    async (page: number): Promise<Page | undefined> => {
      const lines = () =>
        dispatch(api.endpoints.proofLines.initiate({ id: result, key, offset: page * PAGE, limit: PAGE }, { subscribe: false }));
      const answer = await lines();
      if (failureOf(answer.error)?.status !== 404) return answer.data as unknown as Page | undefined;
      await dispatch(api.endpoints.proof.initiate(newest.current, { subscribe: false, forceRefetch: true }));
      return (await lines()).data as unknown as Page | undefined;
    },
    [result, key, dispatch],
  );
}
