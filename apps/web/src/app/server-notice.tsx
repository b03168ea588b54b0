import { useEffect } from 'react';
import { api } from '../api';
import { Button } from '../ui/button';
import { endNoted, serverAnswered } from './connection-slice';
import { useLookAgain } from './events';
import { useAppDispatch, useAppSelector } from './store';

/** While the server does not answer it is asked so often whether it is there again, in ms. */
const ASK_EVERY = 1_000;

/** Says that the server does not answer, and what became of it when it answers again. */
export function ServerNotice() {
  const { away, endedBefore } = useAppSelector((state) => state.connection);
  const dispatch = useAppDispatch();
  const lookAgain = useLookAgain();
  const [ask] = api.useLazyHealthHealthQuery();
  useEffect(() => {
    if (!away) return undefined;
    const timer = setInterval(() => {
      void ask().then(({ data }) => {
        if (!data) return;
        dispatch(serverAnswered({ endedBefore: data.endedBefore }));
        lookAgain();
      });
    }, ASK_EVERY);
    return () => clearInterval(timer);
  }, [away, ask, dispatch, lookAgain]);
  return (
    <div role="status" className={away || endedBefore !== undefined ? 'border-b bg-panel px-3 py-1.5' : 'sr-only'}>
      {away && (
        <p className="text-amber">
          The server does not answer. If it ended, it is started again by itself; what you typed is kept here and sent when it answers.
        </p>
      )}
      {!away && endedBefore !== undefined && (
        <p className="flex items-center gap-3 text-ink-soft">
          The server was started again: the one before ended, {endedBefore}. Runs that were under way have to be asked for again.
          <Button small onClick={() => dispatch(endNoted())}>
            All right
          </Button>
        </p>
      )}
    </div>
  );
}
