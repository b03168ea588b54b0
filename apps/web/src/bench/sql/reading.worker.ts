import { expose } from 'comlink';
import { loadModule, parseSync, scanSync } from 'libpg-query';
import type { Problem, ScriptsAround, TextContext, TextStep } from '@cendra/core';
import { checkScript, checkText, parseWith } from '@cendra/core';

const loading = loadModule();
const parse = parseWith({ parse: parseSync, scan: scanSync });

/** What the grammar says of texts, off the main thread: it is large, and no key waits for it. */
const reading = {
  async problemsOf(kind: TextStep['kind'], text: string, context: TextContext, around?: ScriptsAround): Promise<readonly Problem[]> {
    await loading;
    return kind === 'script' ? checkScript(text, parse, context, around) : checkText(text, parse, context);
  },
};
export type Reading = typeof reading;

expose(reading);
