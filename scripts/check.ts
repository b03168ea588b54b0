import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { root } from './setup/root';
import { main, say } from './setup/say';

const STEPS: readonly (readonly [string, ...string[]])[] = [
  ['prettier', '--check', '--log-level', 'warn', '.'],
  ['tsc', '-p', 'packages/core'],
  ['tsc', '-p', 'apps/server'],
  ['tsc', '-p', 'apps/web'],
  ['tsc', '-p', 'scripts'],
  ['eslint', '.'],
  ['depcruise', '--output-type', 'err', 'packages/core/src', 'apps/server/src', 'apps/web/src'],
  ['knip', '--no-progress'],
];

/** Form, types, lint, directions of dependencies, dead code. Tells all that fails, not only the first. */
main(async () => {
  const failed = STEPS.filter(([program, ...args]) => {
    const done = spawnSync(join(root, 'node_modules/.bin', program), args, { cwd: root, stdio: 'inherit' });
    return done.status !== 0;
  });
  if (failed.length === 0) say('Everything checked is in order.');
  else say(`Not in order: ${failed.map((each) => each.join(' ')).join('; ')}`);
  return failed.length === 0 ? 0 : 1;
});
