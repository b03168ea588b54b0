import { spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { buildAll } from './setup/build';
import { startCluster } from './setup/cluster';
import { ensureDemo } from './setup/databases';
import { firstStart } from './setup/first-start';
import { root } from './setup/root';
import { main, say } from './setup/say';
import { ensureChromium, ensurePdfReader } from './setup/system';

const READINGS = 240_000;

/** All tests, on a cluster of their own that is gone afterwards. Words after the command choose tests by file name. */
main(async () => {
  const words = process.argv.slice(2);
  const all = join(root, 'data-test');
  sweep(all);
  const folder = join(all, String(process.pid));
  mkdirSync(folder, { recursive: true, mode: 0o711 });
  buildAll();
  const browser = ensureChromium();
  ensurePdfReader();
  const cluster = await startCluster(folder, true);
  // A terminal's Ctrl+C comes twice; the second one finds it stopped.
  let stopped = false;
  const stop = () => {
    if (stopped) return;
    stopped = true;
    cluster.stop();
    rmSync(folder, { recursive: true, force: true });
  };
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => (stop(), process.exit(1)));
  try {
    const demoPassword = await ensureDemo(cluster, folder, READINGS);
    await firstStart(cluster, folder, demoPassword);
    const env = {
      ...process.env,
      CENDRA_TEST_FOLDER: folder,
      CENDRA_TEST_PORT: String(cluster.port),
      CENDRA_TEST_PASSWORD: cluster.password,
      CENDRA_TEST_DEMO_PASSWORD: demoPassword,
      CENDRA_TEST_BROWSER: browser,
    };
    const run = (program: string, args: readonly string[]) =>
      spawnSync(join(root, 'node_modules/.bin', program), args, { cwd: root, stdio: 'inherit', env }).status === 0;
    const onlyE2e = words[0] === 'e2e';
    const jest = onlyE2e || run('jest', ['--passWithNoTests', ...words]);
    const e2e = words.length > 0 && !onlyE2e ? true : run('playwright', ['test', '-c', 'e2e/playwright.config.ts', ...words.slice(1)]);
    say(jest && e2e ? 'All tests passed.' : 'Some tests failed; they are named above.');
    return jest && e2e ? 0 : 1;
  } finally {
    stop();
  }
});

/** Folders of test runs that were killed. */
function sweep(all: string): void {
  mkdirSync(all, { recursive: true, mode: 0o711 });
  for (const name of readdirSync(all)) {
    try {
      process.kill(Number(name), 0);
    } catch {
      spawnSync('pkill', ['-9', '-f', `-D ${join(all, name)}/`]);
      rmSync(join(all, name), { recursive: true, force: true });
    }
  }
}
