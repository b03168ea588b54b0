import { useCallback, useEffect, useRef, useState } from 'react';
import type { Failure } from '../api/problem';
import { Button } from '../ui/button';
import { grouped } from '../ui/format';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import type { PaperOf } from './ask-paper';
import { askedPaper } from './ask-paper';
import { fetchFile } from './fetch-file';

/** Pages that are being made, are there, or could not be made. */
type Pages = 'making' | { readonly address: string } | { readonly failure: Failure };

export interface PagesState {
  readonly pages: Pages | undefined;
  make(): void;
  stop(): void;
}

/** More lines than a browser lays out are put on pages by the server, which are then opened to be printed. */
export function usePages(paper: PaperOf): PagesState {
  const [pages, setPages] = useState<Pages>();
  const under = useRef<AbortController>(undefined);
  const made = useRef<string>(undefined);
  const drop = useCallback(() => {
    under.current?.abort();
    if (made.current !== undefined) URL.revokeObjectURL(made.current);
    made.current = undefined;
  }, []);
  useEffect(() => drop, [drop]);
  const stop = () => {
    drop();
    setPages(undefined);
  };
  const make = () => {
    stop();
    const own = new AbortController();
    under.current = own;
    setPages('making');
    void askedPaper(paper, 'pdf')
      .then((asked) => fetchFile(asked, own.signal, () => undefined))
      .then((given) => {
        if (own.signal.aborted) return;
        if (!('file' in given)) return setPages({ failure: given });
        made.current = URL.createObjectURL(given.file);
        setPages({ address: made.current });
      });
  };
  return { pages, make, stop };
}

/** How far they are, or where they are opened. */
export function PagesLine({ pages, stop, lines }: PagesState & { readonly lines: number }) {
  if (pages === undefined) return null;
  if (pages === 'making')
    return (
      <>
        <Waiting what={`Putting ${grouped(lines)} lines on pages`} />
        <Button small kind="quiet" onClick={stop}>
          Stop it
        </Button>
      </>
    );
  if ('failure' in pages) return <FailureNotice failure={pages.failure} />;
  return (
    <span role="status">
      <a href={pages.address} target="_blank" rel="noopener" className="underline underline-offset-2">
        Open the pages of {grouped(lines)} lines to print them
      </a>
    </span>
  );
}
