// Runs before anything is installed, so it is plain JavaScript and uses nothing but Node.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

function refuse(what, why, todo) {
  process.stderr.write(`\n${what} failed: ${why}\nWhat to do: ${todo}\n`);
  process.exit(1);
}

/** Installs the packages of the lockfile when node_modules does not hold exactly those. */
export function ensurePackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    refuse('Checking Node', `this is Node ${process.versions.node}.`, 'install Node 20.19 or newer.');
  const lock = join(root, 'package-lock.json');
  const wanted = createHash('sha256').update(readFileSync(lock)).update(process.version).digest('hex');
  const marker = join(root, 'node_modules', '.cendra-installed');
  if (existsSync(marker) && readFileSync(marker, 'utf8') === wanted) return;
  process.stdout.write('Installing packages (about a minute) …\n');
  const done = spawnSync('npm', ['ci', '--no-fund', '--no-audit', '--loglevel=error'], {
    cwd: root,
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  if (done.status !== 0)
    refuse(
      'Installing packages',
      'npm ci did not succeed; its message stands above.',
      'check that npm reaches its registry, then run the same command again.',
    );
  writeFileSync(marker, wanted);
}

/** Hands over to a TypeScript script, which gets the signals and decides the exit code. */
export async function run(script, args = process.argv.slice(2)) {
  ensurePackages();
  const { spawn } = await import('node:child_process');
  const child = spawn(process.execPath, ['--import', 'tsx', join(root, 'scripts', script), ...args], { cwd: root, stdio: 'inherit' });
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => child.kill(signal));
  child.on('exit', (code, signal) => process.exit(code ?? (signal ? 1 : 0)));
}
