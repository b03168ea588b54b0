import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** What the server is told from outside, once, at start. */
export interface Settings {
  readonly host: string;
  readonly port: number;
  /** Names it is reached by besides `localhost` and addresses. */
  readonly names: readonly string[];
  /** Connection address of Cendra's own database. */
  readonly database: string;
  /** Folder for the secret key, run folders and stored results. */
  readonly dataFolder: string;
  /** Offers one sign-in per role on the sign-in page, and has the demo's source. */
  readonly demo: boolean;
  readonly demoSource: { readonly host: string; readonly port: number; readonly password: string } | undefined;
  /** Folder of the built web pages; none in development, where another server gives them. */
  readonly webFolder: string | undefined;
  readonly logLevel: string;
  /** Why the server before this one ended, where it ended by itself. */
  readonly endedBefore: string | undefined;
  /** 32 bytes that encrypt source secrets. Outside the database on purpose. */
  readonly secretKey: Buffer;
}

export const SETTINGS = Symbol('settings');

export function readSettings(env: NodeJS.ProcessEnv): Settings {
  const dataFolder = needed(env, 'CENDRA_DATA');
  mkdirSync(dataFolder, { recursive: true, mode: 0o700 });
  const demo = env.CENDRA_DEMO === '1';
  return {
    host: env.CENDRA_HOST ?? '127.0.0.1',
    port: Number(env.CENDRA_PORT ?? '4480'),
    names: (env.CENDRA_NAMES ?? '').split(',').flatMap((each) => each.trim().toLowerCase() || []),
    database: needed(env, 'CENDRA_DATABASE'),
    dataFolder,
    demo,
    demoSource: demo
      ? { host: '127.0.0.1', port: Number(needed(env, 'CENDRA_DEMO_PORT')), password: needed(env, 'CENDRA_DEMO_PASSWORD') }
      : undefined,
    webFolder: env.CENDRA_WEB === undefined || env.CENDRA_WEB === '' ? undefined : env.CENDRA_WEB,
    endedBefore: env.CENDRA_ENDED_BEFORE === '' ? undefined : env.CENDRA_ENDED_BEFORE,
    logLevel: env.CENDRA_LOG ?? 'info',
    secretKey: readKey(join(dataFolder, 'secret.key')),
  };
}

function needed(env: NodeJS.ProcessEnv, name: string): string {
  const value = env[name];
  if (value === undefined || value === '') throw new Error(`The setting ${name} is missing; npm start sets it.`);
  return value;
}

function readKey(file: string): Buffer {
  if (!existsSync(file)) writeFileSync(file, randomBytes(32), { mode: 0o600, flag: 'wx' });
  return readFileSync(file);
}
