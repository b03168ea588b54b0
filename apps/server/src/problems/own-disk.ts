import { refused } from './problem.exception';

const NO_ROOM = new Set(['ENOSPC', 'EDQUOT']);

/** Whether Cendra's own disk has no room left: what the operating system says of our files, not what a source says. */
export const isNoRoom = (error: unknown): boolean =>
  typeof error === 'object' && error !== null && 'syscall' in error && 'code' in error && NO_ROOM.has(String(error.code));

export const noRoom = () => refused(507, 'disk-full', 'Cendra has no room left on its own disk.', {}, 'a steward who makes room');
