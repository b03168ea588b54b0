import { spawn } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { root } from './setup/root';
import { main, say } from './setup/say';

type Step = readonly [string, ...string[]];

/** The longest first, so that no lane ends up alone with one. */
const STEPS: readonly Step[] = [
  ['eslint', '.'],
  ['tsc', '-p', 'apps/web'],
  ['prettier', '--check', '--log-level', 'warn', '.'],
  ['tsc', '-p', 'apps/server'],
  ['tsc', '-p', 'packages/core'],
  ['tsc', '-p', 'scripts'],
  ['knip', '--no-progress'],
  ['depcruise', '--output-type', 'err', 'packages/core/src', 'apps/server/src', 'apps/web/src'],
];

/** Form, types, lint, directions of dependencies, dead code. Tells all that fails, not only the first. */
main(async () => {
  const waiting = [...STEPS];
  const failed: string[] = [];
  const lane = async () => {
    for (let step = waiting.shift(); step; step = waiting.shift()) {
      const { passed, words } = await outcome(step);
      if (words.trim() !== '') process.stdout.write(words);
      if (!passed) failed.push(step.join(' '));
    }
  };
  await Promise.all(Array.from({ length: Math.max(2, availableParallelism()) }, lane));
  say(failed.length === 0 ? 'Everything checked is in order.' : `Not in order: ${failed.join('; ')}`);
  return failed.length === 0 ? 0 : 1;
});

/** What a step said is told when it is over, so that those beside it do not speak in between. */
function outcome([program, ...args]: Step): Promise<{ readonly passed: boolean; readonly words: string }> {
  return new Promise((resolve, reject) => {
    const child = spawn(join(root, 'node_modules/.bin', program), args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
    let words = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk: Buffer) => (words += chunk.toString()));
    child.once('error', reject);
    child.once('close', (code) => resolve({ passed: code === 0, words }));
  });
}
