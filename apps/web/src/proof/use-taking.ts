import { useCallback, useEffect, useRef, useState } from 'react';
import type { Failure } from '../api/problem';
import type { AskedFile } from './fetch-file';
import { fetchFile } from './fetch-file';
import { keepFile } from '../ui/keep-file';

/** A file on its way. Before its first byte it is being written; `size` is known from then on. */
export interface Taking {
  readonly format: string;
  readonly bytes: number;
  readonly size?: number;
}

export interface TakingState {
  readonly taking: Taking | undefined;
  readonly failure: Failure | undefined;
  take(format: string, asked: AskedFile): void;
  stop(): void;
}

/** Fetches a file and hands it to the browser to keep, so that what goes wrong on the way is told where it was asked for. */
export function useTaking(): TakingState {
  const [taking, setTaking] = useState<Taking>();
  const [failure, setFailure] = useState<Failure>();
  const under = useRef<AbortController>(undefined);
  const stop = useCallback(() => under.current?.abort(), []);
  useEffect(() => stop, [stop]);
  const take = (format: string, asked: AskedFile) => {
    stop();
    const own = new AbortController();
    under.current = own;
    setFailure(undefined);
    setTaking({ format, bytes: 0 });
    void fetchFile(asked, own.signal, (bytes, size) => setTaking({ format, bytes, size })).then((given) => {
      if (under.current === own) setTaking(undefined);
      if (own.signal.aborted) return;
      if ('file' in given) keepFile(given.file, given.name);
      else setFailure(given);
    });
  };
  return { taking, failure, take, stop };
}
