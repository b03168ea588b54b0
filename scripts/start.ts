import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, watch, writeFileSync } from 'node:fs';
import { createConnection } from 'node:net';
import { join } from 'node:path';
import { buildAll, buildServer } from './setup/build';
import { freePort, startCluster } from './setup/cluster';
import { ensureDemo, ensureOwnDatabase } from './setup/databases';
import { root } from './setup/root';
import { main, say } from './setup/say';
import type { RunningServer } from './setup/server';
import { startServer } from './setup/server';
import { supervised } from './setup/supervised';

const PORT = 4480;
const dev = process.argv.includes('--dev');
const folder = join(root, 'data');
const lock = join(folder, 'running.json');

main(async () => {
  mkdirSync(folder, { recursive: true, mode: 0o711 });
  const other = alreadyRunning();
  if (other !== undefined) {
    say(`Cendra is running already at ${other}`);
    return 0;
  }
  if (dev) buildServer();
  else buildAll();
  const cluster = await startCluster(folder, false);
  const stopAll: (() => Promise<void> | void)[] = [() => cluster.stop(), () => rmSync(lock, { force: true })];
  // A terminal's Ctrl+C comes twice, once from the terminal and once passed on; the second one must not end this.
  const asked = new Promise<void>((resolve) => ['SIGINT', 'SIGTERM', 'SIGHUP'].forEach((signal) => process.on(signal, () => resolve())));
  try {
    const database = await ensureOwnDatabase(cluster, 'cendra');
    const demoPassword = await ensureDemo(cluster, folder);
    const port = (await isFree(PORT)) ? PORT : await freePort();
    const common = { cluster, database, dataFolder: join(folder, 'server'), demoPassword };
    let server: RunningServer = dev
      ? await startServer({ ...common, logLevel: 'info', port })
      : await supervised(
          (ended) =>
            startServer({
              ...common,
              port,
              webFolder: join(root, 'apps/web/dist'),
              ...(ended === undefined ? {} : { endedBefore: ended }),
            }),
          { say },
        );
    stopAll.unshift(() => server.stop());
    let address = server.address;
    if (dev) {
      address = await startPages(server.address, stopAll);
      onServerChange(async () => {
        await server.stop();
        buildServer();
        server = await startServer({ ...common, logLevel: 'info', port });
        say('The server was started anew.');
      });
    }
    writeFileSync(lock, JSON.stringify({ pid: process.pid, address }));
    say(
      `\nCendra is ready at ${address}\nSign in as the demo steward or the demo analyst; both are offered there. Ctrl+C stops everything.`,
    );
    await asked;
    say('\nStopping …');
  } finally {
    for (const stop of stopAll) await stop();
  }
  return 0;
});

function alreadyRunning(): string | undefined {
  if (!existsSync(lock)) return undefined;
  const { pid, address } = JSON.parse(readFileSync(lock, 'utf8')) as { pid: number; address: string };
  try {
    process.kill(pid, 0);
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('start.ts') ? address : undefined;
  } catch {
    return undefined;
  }
}

function isFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const socket = createConnection({ port, host: '127.0.0.1' });
    socket.once('connect', () => {
      socket.destroy();
      resolve(false);
    });
    socket.once('error', () => resolve(true));
  });
}

/** Vite's server for the pages, which passes /api on. */
async function startPages(api: string, stopAll: (() => Promise<void> | void)[]): Promise<string> {
  const port = await freePort();
  const vite = spawn(join(root, 'node_modules/.bin/vite'), ['apps/web', '--port', String(port), '--strictPort'], {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, CENDRA_API: api },
  });
  stopAll.unshift(() => void vite.kill());
  return `http://127.0.0.1:${port}`;
}

/** Calls back a moment after sources of the server or core changed. */
function onServerChange(changed: () => Promise<void>): void {
  let timer: NodeJS.Timeout | undefined;
  let working = Promise.resolve();
  const later = () => {
    clearTimeout(timer);
    timer = setTimeout(() => (working = working.then(changed).catch((error: unknown) => say(String(error)))), 200);
  };
  for (const part of ['apps/server/src', 'packages/core/src']) watch(join(root, part), { recursive: true }, later);
}
