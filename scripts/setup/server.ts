import { fork } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import type { Cluster } from './cluster';
import { freePort } from './cluster';
import { root } from './root';

export interface ServerOptions {
  readonly cluster: Cluster;
  readonly database: string;
  readonly dataFolder: string;
  readonly demoPassword?: string;
  readonly port?: number;
  readonly webFolder?: string;
  readonly logLevel?: string;
  /** Why an earlier one ended, told on the screens of this one. */
  readonly endedBefore?: string;
  /** Limits other than the defaults, by name. */
  readonly limits?: Readonly<Record<string, number>>;
}

export interface RunningServer {
  readonly address: string;
  readonly process: ChildProcess;
  stop(): Promise<void>;
}

/** A port that was free may be taken by another program, or by a connection, while the server comes up. */
const MOST_PORTS = 5;

/** Starts the built server and waits until it listens. Rejects with its last words when it ends before that. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  if (options.port !== undefined) return startAt(options.port, options);
  for (let tried = 1; ; tried++) {
    try {
      return await startAt(await freePort(), options);
    } catch (error) {
      if (tried === MOST_PORTS || !String(error).includes('EADDRINUSE')) throw error;
    }
  }
}

async function startAt(port: number, options: ServerOptions): Promise<RunningServer> {
  const env: NodeJS.ProcessEnv = {
    PATH: process.env.PATH,
    NODE_ENV: 'production',
    CENDRA_PORT: String(port),
    CENDRA_DATABASE: options.database,
    CENDRA_DATA: options.dataFolder,
    CENDRA_LOG: options.logLevel ?? 'warn',
    CENDRA_WEB: options.webFolder ?? '',
    CENDRA_NAMES: process.env.CENDRA_NAMES ?? '',
    CENDRA_ENDED_BEFORE: options.endedBefore ?? '',
    ...Object.fromEntries(Object.entries(options.limits ?? {}).map(([name, value]) => [`CENDRA_LIMIT_${name}`, String(value)])),
    ...(options.demoPassword === undefined
      ? {}
      : { CENDRA_DEMO: '1', CENDRA_DEMO_PORT: String(options.cluster.port), CENDRA_DEMO_PASSWORD: options.demoPassword }),
  };
  const child = fork(join(root, 'apps/server/dist/main.js'), {
    env,
    execArgv: ['--enable-source-maps'],
    stdio: ['ignore', 'inherit', 'pipe', 'ipc'],
  });
  let words = '';
  child.stderr?.on('data', (chunk: Buffer) => {
    words = `${words}${chunk.toString()}`.slice(-4_000);
    process.stderr.write(chunk);
  });
  await new Promise<void>((resolve, reject) => {
    child.once('message', () => resolve());
    child.once('exit', (code) => reject(new Error(`the server ended with code ${code}: ${words}`)));
  });
  const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  return {
    address: `http://127.0.0.1:${port}`,
    process: child,
    stop: async () => {
      child.kill('SIGTERM');
      const late = setTimeout(() => child.kill('SIGKILL'), 10_000);
      await ended;
      clearTimeout(late);
    },
  };
}
