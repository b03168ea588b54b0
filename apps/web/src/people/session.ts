import { useCallback, useEffect } from 'react';
import type { MeDto } from '../api';
import { api, rememberCsrf } from '../api';
import { sessionBegan } from '../app/connection-slice';
import { lookAgain } from '../app/events';
import type { Dispatch, State } from '../app/store';
import { useAppDispatch } from '../app/store';

const CHANNEL = 'cendra.session';

/** Gives what is called when somebody has signed in here; their other tabs hear of it. */
export function useBeginSession(): (me: MeDto) => void {
  const dispatch = useAppDispatch();
  return useCallback(
    (me) => {
      dispatch(began(me));
      const others = new BroadcastChannel(CHANNEL);
      others.postMessage(me.id);
      others.close();
    },
    [dispatch],
  );
}

/** Goes on with the session the same person has begun in another tab. */
export function useSessionOfOtherTabs(me: MeDto): void {
  const dispatch = useAppDispatch();
  const { id } = me;
  useEffect(() => {
    const others = new BroadcastChannel(CHANNEL);
    others.onmessage = ({ data }: MessageEvent<string>) => {
      if (data !== id) return;
      void dispatch(api.endpoints.peopleMe.initiate(undefined, { forceRefetch: true, subscribe: false })).then(
        (answer) => answer.data?.id === id && dispatch(goesOn(answer.data)),
      );
    };
    return () => others.close();
  }, [id, dispatch]);
}

const began = (me: MeDto) => (dispatch: Dispatch) => {
  rememberCsrf(me.csrf);
  dispatch(sessionBegan());
};

/** In a page that is open: what was refused, or not heard of, is asked for again. */
export const goesOn =
  (me: MeDto) =>
  (dispatch: Dispatch, state: () => State): void => {
    dispatch(began(me));
    dispatch(api.util.invalidateTags(['people']));
    for (const query of Object.values(state().api.queries)) {
      if (query?.status !== 'rejected' || query.endpointName === undefined) continue;
      // Which of them does not matter here: it is asked with what it was asked with.
      const endpoint = api.endpoints[query.endpointName as 'peopleMe'];
      void dispatch(endpoint.initiate(query.originalArgs as never, { forceRefetch: true, subscribe: false }));
    }
    void dispatch(lookAgain());
  };
