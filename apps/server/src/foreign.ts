import { isIP } from 'node:net';
import type { NextFunction, Request, Response } from 'express';
import { problem } from '@cendra/core';

const isOwnName = (name: string, names: readonly string[]) => name === 'localhost' || isIP(name) !== 0 || names.includes(name);

const nameOf = (host: string): string | undefined => {
  try {
    return new URL(`http://${host}`).hostname.replace(/^\[|\]$/g, '');
  } catch {
    return undefined;
  }
};

const LOOPBACK = ['localhost', '127.0.0.1', '::1'];

/**
 * Refuses requests that were sent to another name than ours, as by a name that was made to point here, and changes that
 * come from pages of another site. Addresses are nobody's to point elsewhere.
 */
export function refuseForeign(names: readonly string[]) {
  return (request: Request, response: Response, next: NextFunction): void => {
    const host = request.headers.host ?? '';
    const name = nameOf(host);
    if (name === undefined || !isOwnName(name, names)) {
      refuse(response, 421, 'host-unknown', 'Cendra does not answer to this name.', 'a name of the setting CENDRA_NAMES');
      return;
    }
    const { origin } = request.headers;
    if (origin !== undefined && !isSame(origin, host)) {
      refuse(response, 403, 'origin-foreign', 'The request came from a page of another site.', 'a page of Cendra');
      return;
    }
    next();
  };
}

/** The same site, or both this machine: pages in development come from another port. */
function isSame(origin: string, host: string): boolean {
  if (!/^https?:\/\//.test(origin)) return false;
  const from = origin.replace(/^https?:\/\//, '');
  const [one, two] = [nameOf(from), nameOf(host)];
  return from === host || (one !== undefined && two !== undefined && LOOPBACK.includes(one) && LOOPBACK.includes(two));
}

function refuse(response: Response, status: number, code: string, message: string, expected: string): void {
  const found = problem(code, message, {}, expected);
  response
    .status(status)
    .type('application/problem+json')
    .send(JSON.stringify({ type: code, title: message, status, problems: [found] }));
}
