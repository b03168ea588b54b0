import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import type { Cluster } from './cluster';
import { say } from './say';
import { root } from './root';

export const FULL_READINGS = 2_000_000;

/** Runs `use` as the cluster's superuser on one database. */
export async function asOwner<T>(cluster: Cluster, database: string, use: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: cluster.url(database) });
  await client.connect();
  try {
    return await use(client);
  } finally {
    await client.end();
  }
}

/** Cendra's own database; nobody but its owner may even connect to it. A new one is empty, or a copy of `like`. */
export async function ensureOwnDatabase(cluster: Cluster, name: string, like = 'template1'): Promise<string> {
  await asOwner(cluster, 'postgres', async (client) => {
    const { rowCount } = await client.query('select 1 from pg_database where datname = $1', [name]);
    if (rowCount === 0) await client.query(`create database ${client.escapeIdentifier(name)} template ${client.escapeIdentifier(like)}`);
    await client.query(`revoke connect, temporary on database ${client.escapeIdentifier(name)} from public`);
  });
  return cluster.url(name);
}

/**
 * The cooperative's database and the role that reads it, made in one go: it is built under another name and
 * renamed when complete, so an interrupted start leaves nothing half made. Gives the role's password.
 */
export async function ensureDemo(cluster: Cluster, folder: string, readings = FULL_READINGS): Promise<string> {
  const file = join(folder, 'demo.password');
  if (!existsSync(file)) writeFileSync(file, randomBytes(18).toString('base64url'), { mode: 0o600 });
  const password = readFileSync(file, 'utf8');
  await asOwner(cluster, 'postgres', async (client) => {
    // One reads; another one makes functions, where a steward lets somebody keep them.
    for (const name of ['cendra_read', 'cendra_keep']) {
      const role = await client.query('select 1 from pg_roles where rolname = $1', [name]);
      if (role.rowCount === 0) await client.query(`create role ${name} login`);
      await client.query(`alter role ${name} password ${client.escapeLiteral(password)}`);
    }
    const made = await client.query("select 1 from pg_database where datname = 'cooperative'");
    if (made.rowCount !== 0) return;
    say('Making the demo data …');
    await client.query('drop database if exists cooperative_in_making');
    await client.query('create database cooperative_in_making');
    await client.query('revoke connect, temporary on database cooperative_in_making from public');
    await client.query('grant connect, temporary on database cooperative_in_making to cendra_read');
    await client.query('grant connect on database cooperative_in_making to cendra_keep');
    const sql = readFileSync(join(root, 'demo', 'cooperative.sql'), 'utf8').replace(':readings', String(readings));
    await asOwner(cluster, 'cooperative_in_making', (demo) => demo.query(sql));
    await client.query('alter database cooperative_in_making rename to cooperative');
  });
  return password;
}
