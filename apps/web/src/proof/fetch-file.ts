import { changing } from '../api/csrf';
import type { Failure } from '../api/problem';
import { failureOf } from '../api/problem';

/** Where a file is asked for, and with what, where it is more than an address says. */
export interface AskedFile {
  readonly address: string;
  readonly body?: object;
}

export interface FetchedFile {
  readonly file: Blob;
  readonly name: string;
}

/**
 * The file an address gives, or gives for what is sent there, whole, or why there is none. How far it is, is told at each hundredth of its size:
 * a piece arrives every few milliseconds, and whoever hears of it draws the page anew.
 */
export async function fetchFile(
  { address, body }: AskedFile,
  signal: AbortSignal,
  onBytes: (bytes: number, size: number) => void,
): Promise<FetchedFile | Failure> {
  const posted = body && { method: 'POST', headers: { 'content-type': 'application/json', ...changing() }, body: JSON.stringify(body) };
  const answer = await fetch(address, { signal, ...posted }).catch((): undefined => undefined);
  if (!answer) return SILENT;
  if (!answer.ok || !answer.body) return failureOf({ status: answer.status, data: await answer.text() }) ?? SILENT;
  const size = Number(answer.headers.get('content-length'));
  const parts: BlobPart[] = [];
  const hundredth = size / 100;
  let bytes = 0;
  let told = 0;
  onBytes(bytes, size);
  try {
    const reader = answer.body.getReader();
    for (let piece = await reader.read(); !piece.done; piece = await reader.read()) {
      parts.push(piece.value);
      bytes += piece.value.byteLength;
      if (bytes - told < hundredth) continue;
      told = bytes;
      onBytes(bytes, size);
    }
  } catch {
    return BROKEN_OFF;
  }
  if (bytes !== size) return BROKEN_OFF;
  const type = answer.headers.get('content-type') ?? '';
  return { file: new Blob(parts, { type }), name: nameIn(answer.headers.get('content-disposition') ?? '') };
}

const SILENT: Failure = {
  status: 0,
  problems: [{ code: 'server-silent', severity: 'error', message: 'The server does not answer, so there is no file.', place: {} }],
};

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
