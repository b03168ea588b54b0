import { useEffect, useState } from 'react';
import type { Cell } from '../../ui/cell';

export const PAGE = 200;
/** A page that could not be read, for instance because the engine was just started anew, is asked for again. */
const MOST_TRIES = 5;
const TRY_AGAIN_AFTER = 800;
const MOST_KEPT = 20;

export type Page = readonly (readonly Cell[])[];
export type ReadPage = (page: number) => Promise<Page | undefined>;

/** The pages of stored rows around what is in sight, as they arrive. Another reader of pages begins anew. */
export function usePages(read: ReadPage, first: number, count: number, total: number): ReadonlyMap<number, Page> {
  const [held, setHeld] = useState<{ readonly of: ReadPage; readonly pages: ReadonlyMap<number, Page> }>({ of: read, pages: new Map() });
  const [tries, setTries] = useState(0);
  const pages = held.of === read ? held.pages : EMPTY;
  const from = Math.floor(first / PAGE);
  const until = Math.floor(Math.max(0, Math.min(total - 1, first + Math.max(count, 40))) / PAGE);
  useEffect(() => {
    let current = true;
    let again: ReturnType<typeof setTimeout> | undefined;
    for (let page = from; page <= until; page++) {
      if (pages.has(page)) continue;
      void read(page).then((rows) => {
        if (!current) return;
        if (rows)
          setHeld((old) => ({ of: read, pages: new Map([...(old.of === read ? [...old.pages].slice(-MOST_KEPT) : []), [page, rows]]) }));
        else if (tries < MOST_TRIES) again = setTimeout(() => setTries(tries + 1), TRY_AGAIN_AFTER);
      });
    }
    return () => {
      current = false;
      clearTimeout(again);
    };
  }, [from, until, read, pages, tries]);
  return pages;
}

const EMPTY: ReadonlyMap<number, Page> = new Map();
