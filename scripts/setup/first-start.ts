import { cpSync, mkdtempSync } from 'node:fs';
import { join } from 'node:path';
import type { Cluster } from './cluster';
import { ensureOwnDatabase } from './databases';
import { startServer } from './server';

const DATABASE = 'cendra_first';
const folderIn = (folder: string) => join(folder, 'first');

/**
 * Starts a Cendra once with the demo and ends it, so that those of the tests begin as copies of what it left: making
 * the tables and the demo's datasets takes longer than the rest of a start.
 */
export async function firstStart(cluster: Cluster, folder: string, demoPassword: string): Promise<void> {
  const database = await ensureOwnDatabase(cluster, DATABASE);
  const server = await startServer({ cluster, database, dataFolder: folderIn(folder), demoPassword, logLevel: 'error' });
  await server.stop();
}

/** The database and the data folder of a Cendra that has started once; `name` is the database's. */
export async function startedOnce(cluster: Cluster, folder: string, name: string): Promise<{ database: string; dataFolder: string }> {
  const dataFolder = mkdtempSync(join(folder, 'server-'));
  cpSync(folderIn(folder), dataFolder, { recursive: true });
  return { database: await ensureOwnDatabase(cluster, name, DATABASE), dataFolder };
}
