import { execFileSync } from 'node:child_process';
import { ProblemException } from '../../src/problems';
import { cluster, withSuperuser } from './cluster';

/** The cause something is refused by, or that it is not. */
export const codeOf = (work: Promise<unknown>): Promise<string | undefined> =>
  work.then(
    () => 'nothing',
    (error: unknown) => (error instanceof ProblemException ? error.problems[0]?.code : String(error)),
  );

/** All that is in a database, as a text, to be compared with what is there later. */
export const dumped = (database: string): string =>
  execFileSync('pg_dump', ['-h', '127.0.0.1', '-p', String(cluster.port), '-U', 'postgres', '--no-comments', database], {
    encoding: 'utf8',
    env: { ...process.env, PGPASSWORD: cluster.password },
  })
    .split('\n')
    .filter((line) => !/restrict /.test(line))
    .join('\n');

/** A database of its own for attempts on it, made anew. */
export async function madeAnew(database: string, filling: string): Promise<void> {
  await withSuperuser('postgres', async (client) => {
    await client.query(`drop database if exists ${database}`);
    await client.query(`create database ${database}`);
  });
  await withSuperuser(database, (client) => client.query(filling));
}
