import type { Client, QueryArrayResult } from 'pg';
import type { BoundValue, Statement } from '@cendra/core';
import { SETTING_PREFIX } from '@cendra/core';
import { LIMITS } from '../../../limits';
import { ProblemException, refused } from '../../../problems';
import type { CopyLimits, CopyOutcome, CopyProgress, SegmentSink, SourceSnapshot } from '../connector';
import { answering, closeQuietly, destroy, freshConnection, openSpare, withConnection } from './connect';
import { copyInSegments } from './copy';
import { statementProblem } from './errors';
import type { PostgresqlSettings } from './settings';

/** A snapshot that is open already, as the source names it to other connections. */
interface Exported {
  readonly id: string;
  readonly asOf: Date;
}

/** One repeatable-read, read-only transaction on a fresh connection, of now or of a snapshot that is open. */
export async function openSnapshot(
  settings: PostgresqlSettings,
  secret: string,
  signal?: AbortSignal,
  exported?: Exported,
): Promise<SourceSnapshot> {
  const client = await freshConnection(settings, secret);
  try {
    const taken = exported ? `set transaction snapshot '${exported.id.replaceAll("'", "''")}';` : '';
    // One way there and back for all of it.
    const text = `begin transaction isolation level repeatable read read only; ${taken} select pg_backend_pid(), clock_timestamp()`;
    const asked = await answering(client, settings, () => client.query({ text, rowMode: 'array' }), signal);
    const answers = asked as unknown as readonly QueryArrayResult<[string, string]>[];
    const [pid, asOf] = answers.at(-1)?.rows[0] ?? ['0', ''];
    const now = new Date(`${asOf.replace(' ', 'T')}`.replace(/\+00$/, 'Z'));
    return new PostgresqlSnapshot(client, settings, secret, pid, exported?.asOf ?? now);
  } catch (error) {
    await closeQuietly(client);
    throw error instanceof ProblemException ? error : statementProblem(error);
  }
}

const CANCEL_TRIES = 40;
const CANCEL_AGAIN_AFTER = 150;

const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

class PostgresqlSnapshot implements SourceSnapshot {
  private cancelled = false;
  private lastSign = Date.now();
  private working = false;
  /** Settles when the statement under way has ended, however it ended. */
  private settled: Promise<void> = Promise.resolve();

  constructor(
    private readonly client: Client,
    private readonly settings: PostgresqlSettings,
    private readonly secret: string,
    private readonly pid: string,
    readonly asOf: Date,
  ) {}

  async copyTo(
    sink: SegmentSink,
    statement: Statement,
    limits: CopyLimits,
    onProgress: (progress: CopyProgress) => void,
  ): Promise<CopyOutcome> {
    return this.guarded(async () => {
      await this.setValues(statement.values);
      const signs = (progress: CopyProgress) => {
        this.lastSign = Date.now();
        onProgress(progress);
      };
      const alive: SegmentSink = {
        next: () => sink.next(),
        take: async (segment) => {
          await sink.take(segment);
          // While its rows are being taken the source may not send any.
          this.lastSign = Date.now();
        },
      };
      const text = `copy (${statement.text}) to stdout (format csv)`;
      return copyInSegments(this.client, text, alive, limits, signs, () => void this.cancelAtSource());
    });
  }

  async session(): Promise<SourceSnapshot> {
    const id = await this.guarded(async () => {
      const { rows } = await this.client.query<[string]>({ text: 'select pg_export_snapshot()', rowMode: 'array' });
      return rows[0]?.[0] ?? '';
    });
    return openSnapshot(this.settings, this.secret, undefined, { id, asOf: this.asOf });
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
    if (values.length === 0) return;
    // One statement for all of them: a list typed into a clause has thousands.
    await this.client.query({
      text: 'select count(set_config(name, value, true)) from unnest($1::text[], $2::text[]) as v (name, value)',
      values: [
        values.map((_value, index) => `${SETTING_PREFIX}${index + 1}`),
        values.map(({ value }) => (typeof value === 'string' ? value : arrayLiteral(value))),
      ],
    });
  }

  /**
   * Asks the server to stop this connection's statement, again until it has: a request that arrives between the
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
