import { spawn } from 'node:child_process';
import pg from 'pg';
import type { Cluster } from '../scripts/setup/cluster';

/** The rows of a statement, asked by the driver alone. */
export async function directHead(cluster: Cluster, password: string, sql: string): Promise<void> {
  const client = new pg.Client({ host: '127.0.0.1', port: cluster.port, database: 'cooperative', user: 'cendra_read', password });
  await client.connect();
  await client.query(sql);
  await client.end();
}

/** Commands run by the engine's own client. */
export function psql(cluster: Cluster, password: string, commands: readonly string[]): Promise<void> {
  return new Promise((resolve, reject) => {
    const place = ['-h', '127.0.0.1', '-p', String(cluster.port), '-U', 'cendra_read', '-d', 'cooperative', '-q'];
    const child = spawn('psql', [...place, ...commands.flatMap((each) => ['-c', each])], {
      env: { ...process.env, PGPASSWORD: password, PGOPTIONS: '-c jit=off' },
      stdio: ['ignore', 'ignore', 'inherit'],
    });
    child.on('exit', (code) => (code === 0 ? resolve() : reject(new Error(`psql ended with ${code}`))));
  });
}
