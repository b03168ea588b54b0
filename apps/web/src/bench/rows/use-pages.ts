import { useEffect, useState } from 'react';
import type { Cell } from '../../ui/cell';

export const PAGE = 200;
/** A page that could not be read, for instance because the engine was just started anew, is asked for again. */
const MOST_TRIES = 5;
const TRY_AGAIN_AFTER = 800;
const MOST_KEPT = 20;
/** Pages that come into sight for a shorter time than this, in ms, are passed by. */
const PASSING = 40;

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
    const missing = Array.from({ length: until - from + 1 }, (_, index) => from + index).filter((page) => !pages.has(page));
    const take = (page: number, rows: Page) =>
      setHeld((old) => ({ of: read, pages: new Map([...(old.of === read ? [...old.pages].slice(-MOST_KEPT) : []), [page, rows]]) }));
    const ask = () => {
      for (const page of missing)
        void read(page).then((rows) => {
          if (!current) return;
          if (rows) take(page, rows);
          else if (tries < MOST_TRIES) again = setTimeout(() => setTries(tries + 1), TRY_AGAIN_AFTER);
        });
    };
    // What is only passed by is not asked for.
    const settled = missing.length > 0 ? setTimeout(ask, pages.size === 0 ? 0 : PASSING) : undefined;
    return () => {
      current = false;
      clearTimeout(settled);
      clearTimeout(again);
    };
  }, [from, until, read, pages, tries]);
  return pages;
}

const EMPTY: ReadonlyMap<number, Page> = new Map();
