import { refused } from './problem.exception';
import { problem } from '@cendra/core';

/**
 * What PostgreSQL, its driver and the system say when Cendra's own database cannot be asked: `08…` and `57P0…` are its
 * codes, `53300` that all its connections are taken, and the words where a code says other things as well.
 */
const AWAY =
  /ECONNREFUSED|ECONNRESET|EPIPE|ETIMEDOUT|terminated|not queryable|Connection ended|not currently accepting connections|timeout exceeded when trying to connect|Query read timeout/;

/** Whether an error of the own database is that it is away, or just coming back: what was asked can be asked again. */
export function isAway(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const { code = '' } = error as { code?: unknown };
  const known = typeof code === 'string' ? code : '';
  return /^(08|57P0|53300|ECONN|EPIPE|ETIMEDOUT)/.test(known) || AWAY.test(error.message);
}

export const ownDatabaseAway = () =>
  problem(
    'own-database-away',
    'Cendra’s own database cannot be reached at this moment. Nothing was changed.',
    {},
    'to try again in a moment',
  );

const TRIES = 60;
const AGAIN_AFTER = 500;

/** Does what has to be written down, again for half a minute while the own database is away: it may be starting anew. */
export async function whileAway<T>(work: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++) {
    try {
      return await work();
    } catch (error) {
      if (!isAway(error) || tries === TRIES) throw error;
      await new Promise((resolve) => setTimeout(resolve, AGAIN_AFTER));
    }
  }
}

/** Cendra's own database is not read as a source, by whatever name. */
export const ownDatabaseIsNoSource = () =>
  refused(
    422,
    'own-database',
    'This is Cendra’s own database, which cannot be a source.',
    { pointer: '/settings' },
    'a database with data to report on',
  );
