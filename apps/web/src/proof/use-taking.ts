import { useCallback, useEffect, useRef, useState } from 'react';
import type { Failure } from '../api/problem';
import { failureOf } from '../api/problem';

/** A file on its way. Before its first byte it is being written; `size` is known from then on. */
export interface Taking {
  readonly format: string;
  readonly bytes: number;
  readonly size?: number;
}

export interface TakingState {
  readonly taking: Taking | undefined;
  readonly failure: Failure | undefined;
  take(format: string, address: string): void;
  stop(): void;
}

/** Fetches a file and hands it to the browser to keep, so that what goes wrong on the way is told where it was asked for. */
export function useTaking(): TakingState {
  const [taking, setTaking] = useState<Taking>();
  const [failure, setFailure] = useState<Failure>();
  const under = useRef<AbortController>(undefined);
  const stop = useCallback(() => under.current?.abort(), []);
  useEffect(() => stop, [stop]);
  const take = (format: string, address: string) => {
    stop();
    const own = new AbortController();
    under.current = own;
    setFailure(undefined);
    setTaking({ format, bytes: 0 });
    fetched(address, own.signal, (bytes, size) => setTaking({ format, bytes, size }))
      .then(({ file, name }) => keep(file, name))
      .catch((error: unknown) => {
        if (!own.signal.aborted) setFailure(error as Failure);
      })
      .finally(() => under.current === own && setTaking(undefined));
  };
  return { taking, failure, take, stop };
}

async function fetched(address: string, signal: AbortSignal, onBytes: (bytes: number, size: number) => void) {
  const answer = await fetch(address, { signal }).catch((error: unknown) => Promise.reject(failureOf(error) ?? error));
  if (!answer.ok || !answer.body) throw failureOf({ status: answer.status, data: await answer.text() });
  const size = Number(answer.headers.get('content-length'));
  const parts: BlobPart[] = [];
  let bytes = 0;
  onBytes(bytes, size);
  try {
    const reader = answer.body.getReader();
    for (let piece = await reader.read(); !piece.done; piece = await reader.read()) {
      parts.push(piece.value);
      bytes += piece.value.byteLength;
      onBytes(bytes, size);
    }
  } catch {
    bytes = -1;
  }
  if (bytes !== size) throw BROKEN_OFF;
  const type = answer.headers.get('content-type') ?? '';
  return { file: new Blob(parts, { type }), name: nameIn(answer.headers.get('content-disposition') ?? '') };
}

const BROKEN_OFF: Failure = {
  status: 0,
  problems: [
    {
      code: 'take-away-broken',
      severity: 'error',
      message: 'The file broke off before it was whole, and nothing of it was kept.',
      expected: 'the whole file; take it away again',
      place: {},
    },
  ],
};

const nameIn = (disposition: string) => decodeURIComponent(/filename\*=UTF-8''(.+)$/.exec(disposition)?.[1] ?? 'rows');

function keep(file: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(file);
  link.download = name;
  link.click();
  // The browser reads it after the click; a minute is long for that and short for the memory it holds.
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
