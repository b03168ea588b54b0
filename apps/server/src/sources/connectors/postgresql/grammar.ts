import type { Parse } from '@cendra/core';
import { parseWith } from '@cendra/core';
import { loadModule, parseSync, scanSync } from 'libpg-query';

let loaded: Promise<void> | undefined;
const parse = parseWith({ parse: parseSync, scan: scanSync });

/** PostgreSQL's own grammar, loaded when it is first needed. */
export async function grammar(): Promise<Parse> {
  await (loaded ??= loadModule());
  return parse;
}
