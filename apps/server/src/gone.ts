import type { Request } from 'express';
import { refused } from './problems';

/** Aborted when whoever asked has gone away. */
export function goneOf(request: Request): AbortSignal {
  const gone = new AbortController();
  request.res?.on('close', () => gone.abort(refused(409, 'reader-gone', 'Whoever asked has gone.')));
  return gone.signal;
}
