import { NOW_WORDS } from './tree';

const RESERVED = new Set<string>([
  'and',
  'or',
  'not',
  'is',
  'null',
  'between',
  'in',
  'like',
  'escape',
  'true',
  'false',
  'case',
  'when',
  'then',
  'else',
  'end',
  'cast',
  ...NOW_WORDS,
]);

/** Words that mean something by themselves; a field of such a name is written in double quotes. */
export function isReserved(name: string): boolean {
  return RESERVED.has(name.toLowerCase());
}

/** How a field or parameter is written in an expression: a field's name is quoted when it is no plain identifier. */
export function writtenName(kind: 'field' | 'parameter', name: string): string {
  if (kind === 'parameter') return `:${name}`;
  return /^[\p{L}_][\p{L}\p{N}\p{M}_$]*$/u.test(name) && !isReserved(name) ? name : `"${name.replaceAll('"', '""')}"`;
}
