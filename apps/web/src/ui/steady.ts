import { useCallback, useEffect, useRef } from 'react';

/**
 * An act that is the same for as long as its place is drawn, and does what the newest one given does. Parts that are drawn
 * again only where what they show is other keep no act of an older drawing by it.
 */
export function useSteady<Given extends readonly unknown[], Gives>(act: (...given: Given) => Gives): (...given: Given) => Gives {
  const latest = useRef(act);
  useEffect(() => {
    latest.current = act;
  });
  return useCallback((...given: Given) => latest.current(...given), []);
}
