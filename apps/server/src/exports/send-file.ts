import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import type { Response } from 'express';
import { LIMITS } from '../limits';

export interface Sent {
  readonly file: string;
  readonly media: string;
  /** What the reader's program calls it, without its ending. */
  readonly name: string;
  readonly ending: string;
  /** Whether it is of all rows. */
  readonly complete: boolean;
}

/** What a file is called on its reader’s machine, which may not take every sign. */
export const fileName = (name: string, ending: string): string =>
  `${name.replaceAll(/[^\p{L}\p{M}\p{N} ._,-]/gu, '').trim() || 'rows'}.${ending}`;

/** A file as a download. A reader who takes nothing for a while, or loses the right to it, is let go of. */
export async function sendFile(response: Response, { file, media, name, ending, complete }: Sent, gone: AbortSignal): Promise<void> {
  const called = fileName(name, ending);
  response.set({
    'content-type': media,
    'content-length': String((await stat(file)).size),
    'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(called)}`,
    'x-cendra-complete': String(complete),
  });
  response.setTimeout(LIMITS.unreadTime.value, () => response.destroy());
  await pipeline(createReadStream(file), response, { signal: gone });
}
