import { problem } from '@cendra/core';
import { ProblemException, refused } from './problem.exception';

const NO_ROOM = new Set(['ENOSPC', 'EDQUOT']);

const systemError = (error: unknown): { readonly code: string; readonly ofFile: boolean } | undefined =>
  typeof error === 'object' && error !== null && 'syscall' in error && 'code' in error
    ? { code: String(error.code), ofFile: 'path' in error && !('address' in error) }
    : undefined;

/** Whether what went wrong is a file of Cendra's: what the operating system says of it, not what a source says. */
export const isOwnDisk = (error: unknown): boolean => {
  const said = systemError(error);
  return said !== undefined && (said.ofFile || NO_ROOM.has(said.code));
};

/** Whether there is nothing to look after but its room. */
export const isNoRoom = (error: unknown): boolean => NO_ROOM.has(systemError(error)?.code ?? '');

/** The answer to it; the system's own words name paths of the server, and stay in the log. */
export const ownDisk = (error: unknown): ProblemException =>
  isNoRoom(error)
    ? refused(507, 'disk-full', 'Cendra has no room left on its own disk.', {}, 'a steward who makes room')
    : new ProblemException(500, [
        problem('disk-failed', 'Cendra could not read or write a file of its own.', {}, 'a steward who looks into its log'),
      ]);
