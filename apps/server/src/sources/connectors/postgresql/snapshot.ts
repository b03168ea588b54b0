import { open } from 'node:fs/promises';
import type { Client } from 'pg';
import type { BoundValue, Statement } from '@cendra/core';
import { SETTING_PREFIX } from '@cendra/core';
import { LIMITS } from '../../../limits';
import { ProblemException, refused } from '../../../problems';
import type { ConnectionSettings, CopyLimits, CopyOutcome, CopyProgress, SourceSnapshot } from '../connector';
import { closeQuietly, destroy, freshConnection, openSpare, withConnection } from './connect';
import { copyToFile } from './copy';
import { statementProblem } from './errors';

/** One repeatable-read, read-only transaction on a fresh connection. */
export async function openSnapshot(settings: ConnectionSettings, secret: string): Promise<SourceSnapshot> {
  const client = await freshConnection(settings, secret);
  try {
    await client.query('begin transaction isolation level repeatable read read only');
    const { rows } = await client.query<[string, string]>({ text: 'select pg_backend_pid(), clock_timestamp()', rowMode: 'array' });
    const [pid, asOf] = rows[0] ?? ['0', ''];
    return new PostgresqlMoment(client, settings, secret, pid, new Date(`${asOf.replace(' ', 'T')}`.replace(/\+00$/, 'Z')));
  } catch (error) {
    await closeQuietly(client);
    throw statementProblem(error);
  }
}

const CANCEL_TRIES = 40;
const CANCEL_AGAIN_AFTER = 150;

const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

class PostgresqlMoment implements SourceSnapshot {
  private cancelled = false;
  private lastSign = Date.now();
  private working = false;
  /** Settles when the statement under way has ended, however it ended. */
  private settled: Promise<void> = Promise.resolve();

  constructor(
    private readonly client: Client,
    private readonly settings: ConnectionSettings,
    private readonly secret: string,
    private readonly pid: string,
    readonly asOf: Date,
  ) {}

  async copyTo(path: string, statement: Statement, limits: CopyLimits, onProgress: (progress: CopyProgress) => void): Promise<CopyOutcome> {
    const file = await open(path, 'wx', 0o600);
    try {
      return await this.guarded(async () => {
        await this.setValues(statement.values);
        const signs = (progress: CopyProgress) => {
          this.lastSign = Date.now();
          onProgress(progress);
        };
        return copyToFile(
          this.client,
          `copy (${statement.text}) to stdout (format csv)`,
          file,
          limits,
          signs,
          () => void this.cancelAtSource(),
        );
      });
    } finally {
      await file.close();
    }
  }

  async rows(statement: Statement): Promise<readonly (readonly (string | null)[])[]> {
    return this.guarded(async () => {
      await this.setValues(statement.values);
      const result = await this.client.query<(string | null)[]>({ text: statement.text, rowMode: 'array' });
      return result.rows;
    });
  }

  async cancel(): Promise<void> {
    this.cancelled = true;
    await this.cancelAtSource();
  }

  async close(): Promise<void> {
    await closeQuietly(this.client);
    openSpare(this.settings, this.secret);
  }

  /** Values travel as settings of this transaction; only their names and types stand in the statement. */
  private async setValues(values: readonly BoundValue[]): Promise<void> {
    for (const [index, { value }] of values.entries()) {
      await this.client.query({
        text: 'select set_config($1, $2, true)',
        values: [`${SETTING_PREFIX}${index + 1}`, typeof value === 'string' ? value : arrayLiteral(value)],
      });
    }
  }

  /**
   * ActiveClause the server to stop this connection's statement, again until it has: a request that arrives between the
   * messages of one statement is ignored by the server. When asking gets no answer, or does not help, the connection is cut.
   */
  private async cancelAtSource(): Promise<void> {
    try {
      await withConnection(this.settings, this.secret, async (other) => {
        for (let tries = 0; this.working && tries < CANCEL_TRIES; tries++) {
          await other.query('select pg_cancel_backend($1)', [this.pid]);
          await Promise.race([this.settled, pause(CANCEL_AGAIN_AFTER)]);
        }
      });
    } catch {
      // Asking failed; cutting below stops it as well, within the second the server checks its client.
    }
    if (this.working) destroy(this.client);
  }

  /** Turns driver errors into problems and watches that the source keeps answering within the statement limit. */
  private async guarded<T>(work: () => Promise<T>): Promise<T> {
    if (this.cancelled) throw refused(409, 'run-cancelled', 'The run was stopped.');
    this.lastSign = Date.now();
    let settle: () => void = () => undefined;
    this.settled = new Promise((resolve) => (settle = resolve));
    this.working = true;
    const watch = setInterval(() => {
      if (Date.now() - this.lastSign > LIMITS.statementTime.value + 5_000) destroy(this.client);
    }, 1_000);
    try {
      return await work();
    } catch (error) {
      if (this.cancelled) throw refused(409, 'run-cancelled', 'The run was stopped.');
      throw error instanceof ProblemException ? error : statementProblem(error);
    } finally {
      clearInterval(watch);
      this.working = false;
      settle();
    }
  }
}

/** A list as one PostgreSQL array literal; every item quoted. */
export function arrayLiteral(items: readonly string[]): string {
  return `{${items.map((item) => `"${item.replaceAll('\\', '\\\\').replaceAll('"', '\\"')}"`).join(',')}}`;
}
