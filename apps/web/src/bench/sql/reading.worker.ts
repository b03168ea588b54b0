import { expose } from 'comlink';
import { loadModule, parseSync, scanSync } from 'libpg-query';
import type { Problem, SaidText, ScriptsAround, TextContext, TextStep, TextToSay } from '@cendra/core';
import { checkScript, checkText, parseWith, sayText } from '@cendra/core';
import { mint } from '../mint';

const loading = loadModule();
const parse = parseWith({ parse: parseSync, scan: scanSync });

/** What the grammar says of texts, off the main thread: it is large, and no key waits for it. */
const reading = {
  async problemsOf(kind: TextStep['kind'], text: string, context: TextContext, around?: ScriptsAround): Promise<readonly Problem[]> {
    await loading;
    return kind === 'script' ? checkScript(text, parse, context, around) : checkText(text, parse, context);
  },
  async inSteps(given: TextToSay): Promise<SaidText> {
    await loading;
    return sayText(given, parse, mint);
  },
};
export type Reading = typeof reading;

expose(reading);
