import type { PersonRequest } from './people';
import { refused } from './problems';

/** Aborted when whoever asked has gone away, or may no longer have what was asked for; the reason says which. */
export function goneOf({ res, lost }: PersonRequest): AbortSignal {
  const gone = new AbortController();
  res?.once('close', () => gone.abort(refused(409, 'reader-gone', 'Whoever asked has gone.')));
  return lost ? AbortSignal.any([lost, gone.signal]) : gone.signal;
}
