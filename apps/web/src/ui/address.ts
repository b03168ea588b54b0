import { useCallback } from 'react';
import { useNavigate, useSearchParams } from 'react-router';

interface Written {
  readonly path: string;
  readonly search: string;
}

/** What was written last and is not the address yet. */
let underWay: Written | undefined;

/**
 * The parameters of the address, and the way to change some of them. A change stands on the one before, also where
 * that is not the address yet or the page does not show it yet: of two at once neither is lost.
 */
export function useAddress(): readonly [URLSearchParams, (change: (parameters: URLSearchParams) => void) => void] {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const write = useCallback(
    (change: (parameters: URLSearchParams) => void) => {
      const { pathname: path, search: now } = window.location;
      const next = new URLSearchParams(underWay?.path === path ? underWay.search : now);
      change(next);
      const mine = (underWay = { path, search: `?${next}` });
      void Promise.resolve(navigate(mine.search, { replace: true })).finally(() => {
        if (underWay === mine) underWay = undefined;
      });
    },
    [navigate],
  );
  return [search, write];
}
