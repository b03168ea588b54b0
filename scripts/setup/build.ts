import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './root';
import { say, SetupError } from './say';

interface Part {
  readonly name: string;
  readonly from: readonly string[];
  readonly out: string;
  readonly folder: string;
  readonly command: readonly string[];
}

const SWC = ['swc', 'src', '-d', 'dist', '--strip-leading-paths', '--config-file', '../../.swcrc', '--quiet'];

const CORE: Part = {
  name: 'core',
  from: ['packages/core/src', '.swcrc'],
  out: 'packages/core/dist',
  folder: 'packages/core',
  command: SWC,
};
const SERVER: Part = { name: 'server', from: ['apps/server/src', '.swcrc'], out: 'apps/server/dist', folder: 'apps/server', command: SWC };
const WEB: Part = {
  name: 'web pages',
  from: ['apps/web/src', 'apps/web/index.html', 'apps/web/public', 'apps/web/vite.config.ts', 'packages/core/src'],
  out: 'apps/web/dist',
  folder: 'apps/web',
  command: ['vite', 'build', '--logLevel', 'warn'],
};

/** Builds what changed since the last build, by the content of the sources. */
export function buildAll(): void {
  for (const part of [CORE, SERVER, WEB]) build(part);
}

export function buildServer(): void {
  for (const part of [CORE, SERVER]) build(part);
}

function build(part: Part): void {
  const marker = join(root, part.out, '.built-from');
  const wanted = hashOf([...part.from, 'package-lock.json']);
  if (existsSync(marker) && readFileSync(marker, 'utf8') === wanted) return;
  say(`Building ${part.name} …`);
  rmSync(join(root, part.out), { recursive: true, force: true });
  const [program = '', ...args] = part.command;
  const done = spawnSync(join(root, 'node_modules', '.bin', program), args, {
    cwd: join(root, part.folder),
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  if (done.status !== 0)
    throw new SetupError(
      `Building ${part.name}`,
      'the compiler complained above.',
      'mend what it names, or run git status to see what differs from the last commit.',
    );
  mkdirSync(join(root, part.out), { recursive: true });
  writeFileSync(marker, wanted);
}

function hashOf(paths: readonly string[]): string {
  const hash = createHash('sha256');
  for (const path of paths) addTo(hash, path);
  return hash.digest('hex');
}

function addTo(hash: ReturnType<typeof createHash>, path: string): void {
  const full = join(root, path);
  if (!existsSync(full)) return;
  if (statSync(full).isDirectory()) for (const name of readdirSync(full).sort()) addTo(hash, join(path, name));
  else hash.update(path).update(readFileSync(full));
}
