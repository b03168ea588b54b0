import { expose } from 'comlink';
import { loadModule, parseSync } from 'libpg-query';
import type { Problem, TextContext } from '@cendra/core';
import { checkText, parseWith } from '@cendra/core';

const loading = loadModule();
const parse = parseWith(parseSync);

/** What the grammar says of texts, off the main thread: it is large, and no key waits for it. */
const reading = {
  async problemsOf(text: string, context: TextContext): Promise<readonly Problem[]> {
    await loading;
    return checkText(text, parse, context);
  },
};
export type Reading = typeof reading;

expose(reading);
