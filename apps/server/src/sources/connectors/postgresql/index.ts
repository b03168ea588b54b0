import type { Client } from 'pg';
import { problem, postgresql } from '@cendra/core';
import { ProblemException } from '../../../problems';
import { refuseWhatReaches } from './admit';
import type { Admitted, Connector, DescribedText, TestAnswer } from '../connector';
import { readTable, readTables } from './catalogue';
import { withConnection } from './connect';
import { statementProblem } from './errors';
import { describeScript } from './describe-script';
import { describeText } from './describe-text';
import { textProblem } from './text-problems';
import { keepRoutine } from './keep-routine';
import { guardOwn } from './own-server';
import { readRoutines, readRoutineText, readViewText } from './routines';
import { isAt, loginOf, PostgresqlSettings, secretGoesTo } from './settings';
import { openScript } from './script';
import { openSnapshot } from './snapshot';

async function test(settings: PostgresqlSettings, secret: string): Promise<TestAnswer> {
  const started = performance.now();
  try {
    return await withConnection(settings, secret, async (client): Promise<TestAnswer> => {
      const answer = await client.query<string[]>({ text: "select current_user, current_setting('server_version')", rowMode: 'array' });
      const ms = Math.round(performance.now() - started);
      const tables = await readTables(client);
      const [user = '', version = ''] = answer.rows[0] ?? [];
      if (tables.length === 0) {
        return {
          ok: false,
          problem: problem(
            'rights-missing',
            `${user} can sign in but may not read any table of ${settings.database}.`,
            { pointer: '/settings/user' },
            'the right to select from at least one table',
          ),
        };
      }
      return { ok: true, user, server: `PostgreSQL ${version.split(' ')[0]}`, ms, tables: tables.length };
    });
  } catch (error) {
    if (!(error instanceof ProblemException)) throw error;
    const [first] = error.problems;
    if (!first) throw error;
    return error.detail === undefined ? { ok: false, problem: first } : { ok: false, problem: first, detail: error.detail };
  }
}

/** Driver errors while asking the catalogue become problems like any other statement's. */
async function asking<T>(work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    throw error instanceof ProblemException ? error : statementProblem(error);
  }
}

/** In a transaction that only reads and is taken back: a statement is parsed, and literals in it are read, but it is not run. */
async function describe(client: Client, text: string, types: readonly (string | undefined)[], admitted: Admitted): Promise<DescribedText> {
  await client.query('begin transaction read only');
  try {
    await refuseWhatReaches(client, text, admitted);
    return await describeText(client, text, types);
  } catch (error) {
    throw textProblem(error, text);
  } finally {
    await client.query('rollback').catch(() => undefined);
  }
}

export const postgresqlConnector: Connector<PostgresqlSettings> = {
  kind: 'postgresql',
  dialect: postgresql('settings'),
  settings: PostgresqlSettings,
  loginOf,
  secretGoesTo,
  isAt,
  guardOwn,
  test,
  tables: (settings, secret) => asking(withConnection(settings, secret, readTables)),
  describe: (settings, secret, schema, table) => asking(withConnection(settings, secret, (client) => readTable(client, schema, table))),
  describeText: (settings, secret, text, types, admitted) =>
    asking(withConnection(settings, secret, (client) => describe(client, text, types, admitted))),
  describeScript: (settings, secret, script, admitted) =>
    asking(withConnection(settings, secret, (client) => describeScript(client, script, admitted))),
  openScript: (settings, secret, signal, admitted) => openScript(settings, secret, signal, { admitted }),
  keepRoutine: (settings, ...made) => asking(keepRoutine(settings, ...made)),
  routines: (settings, secret) => asking(withConnection(settings, secret, readRoutines)),
  routineText: (settings, secret, ...at) => asking(withConnection(settings, secret, (client) => readRoutineText(client, ...at))),
  viewText: (settings, secret, ...at) => asking(withConnection(settings, secret, (client) => readViewText(client, ...at))),
  open: (settings, secret, signal, admitted) => openSnapshot(settings, secret, signal, { admitted }),
};
