import type { Client, QueryArrayConfig, QueryArrayResult } from 'pg';
import type { BoundValue, Statement } from '@cendra/core';
import { SETTING_PREFIX } from '@cendra/core';
import { LIMITS } from '../../../limits';
import { isNoRoom, noRoom, ProblemException, refused } from '../../../problems';
import { admit } from './admit';
import type { Admitted, CopyLimits, CopyOutcome, CopyProgress, SegmentSink, SourceSnapshot } from '../connector';
import { answering, closeQuietly, destroy, freshConnection, openSpare, withConnection } from './connect';
import { copyInSegments } from './copy';
import { statementProblem } from './errors';
import { IDENTITY, knowOwn, refuseOwn } from './own-server';
import type { PostgresqlSettings } from './settings';

/** A snapshot that is open already, as the source names it to other connections. */
interface Exported {
  readonly id: string;
  readonly asOf: Date;
}

interface Opening {
  readonly exported?: Exported;
  readonly admitted?: Admitted | undefined;
}

/** One repeatable-read, read-only transaction on a fresh connection, of now or of a snapshot that is open. */
export async function openSnapshot(
  settings: PostgresqlSettings,
  secret: string,
  signal?: AbortSignal,
  { exported, admitted = [] }: Opening = {},
): Promise<SourceSnapshot> {
  knowOwn();
  const client = await freshConnection(settings, secret);
  try {
    const taken = exported ? `set transaction snapshot '${exported.id.replaceAll("'", "''")}';` : '';
    // One way there and back for all of it. To the savepoint goes back what is stopped in the middle; the moment stays.
    const begin = `begin transaction isolation level repeatable read read only; ${taken}`;
    const text = `${begin} select pg_backend_pid(), clock_timestamp(), ${IDENTITY}; savepoint ${SAVEPOINT}`;
    const asked = await answering(client, () => client.query({ text, rowMode: 'array' }), signal);
    const answers = asked as unknown as readonly QueryArrayResult<[string, string, string]>[];
    const [pid, asOf, identity] = answers.at(-2)?.rows[0] ?? ['0', ''];
    await refuseOwn(identity);
    const now = new Date(`${asOf.replace(' ', 'T')}`.replace(/\+00$/, 'Z'));
    return new PostgresqlSnapshot(client, settings, secret, pid, exported?.asOf ?? now, admitted);
  } catch (error) {
    await closeQuietly(client);
    throw error instanceof ProblemException ? error : statementProblem(error);
  }
}

const SAVEPOINT = 'moment';
const GO_BACK_TRIES = 3;
const CANCEL_TRIES = 40;
const CANCEL_AGAIN_AFTER = 150;

/** Sent so that the server refuses a text that holds several statements; the driver's types leave the setting out. */
const alone = (text: string) => ({ text, rowMode: 'array', queryMode: 'extended' }) as QueryArrayConfig;

const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** Something that is being done, and ends once, however it ends. */
class UnderWay {
  over = false;
  private settle: () => void = () => undefined;
  readonly ended = new Promise<void>((resolve) => (this.settle = resolve));

  static nothing(): UnderWay {
    const none = new UnderWay();
    none.end();
    return none;
  }

  end(): void {
    this.over = true;
    this.settle();
  }
}

/** What is read of an explained statement. */
interface Explained {
  readonly Plan?: { readonly 'Plan Rows'?: number };
}

class PostgresqlSnapshot implements SourceSnapshot {
  private cancelled = false;
  /** Texts that were looked at at this moment. */
  private readonly admitted = new Set<string>();
  private lastSign = Date.now();
  /** What was asked of it so far, however it ended. */
  private turn: Promise<unknown> = Promise.resolve();
  /** What is being asked of it. */
  private work = UnderWay.nothing();

  constructor(
    private readonly client: Client,
    private readonly settings: PostgresqlSettings,
    private readonly secret: string,
    private readonly pid: string,
    readonly asOf: Date,
    private readonly mayRun: Admitted,
  ) {}

  async copyTo(
    sink: SegmentSink,
    statement: Statement,
    limits: CopyLimits,
    onProgress: (progress: CopyProgress) => void,
  ): Promise<CopyOutcome> {
    return this.guarded(async () => {
      await this.prepare(statement);
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
      const copying = new UnderWay();
      let stopping: Promise<void> | undefined;
      const stop = () => void (stopping ??= this.cancelAtSource(copying));
      const outcome = await copyInSegments(this.client, text, alive, limits, signs, stop).finally(() => copying.end());
      if (outcome.cut) {
        await stopping;
        await this.goBack();
      }
      return outcome;
    });
  }

  /** After a statement that was stopped nothing else could be asked of the transaction. A request to stop may still be on its way. */
  private async goBack(): Promise<void> {
    for (let tries = 0; ; tries++) {
      try {
        await this.client.query(`rollback to savepoint ${SAVEPOINT}`);
        return;
      } catch (error) {
        if (tries === GO_BACK_TRIES) throw error;
      }
    }
  }

  async session(): Promise<SourceSnapshot> {
    const id = await this.guarded(async () => {
      // Behind a savepoint there is nothing to export.
      const text = `release savepoint ${SAVEPOINT}; select pg_export_snapshot(); savepoint ${SAVEPOINT}`;
      const answers = (await this.client.query({ text, rowMode: 'array' })) as unknown as readonly QueryArrayResult<[string]>[];
      return answers[1]?.rows[0]?.[0] ?? '';
    });
    return openSnapshot(this.settings, this.secret, undefined, { exported: { id, asOf: this.asOf }, admitted: this.mayRun });
  }

  async rows(statement: Statement): Promise<readonly (readonly (string | null)[])[]> {
    return this.guarded(async () => {
      await this.prepare(statement);
      const result = await this.client.query<(string | null)[]>(alone(statement.text));
      return result.rows;
    });
  }

  async estimate(statement: Statement): Promise<bigint | undefined> {
    return this.guarded(async () => {
      await this.prepare(statement);
      const text = `explain (format json) ${statement.text}`;
      const { rows } = await this.client.query<[string]>(alone(text));
      const plans: unknown = JSON.parse(rows[0]?.[0] ?? '[]');
      const expected = Array.isArray(plans) ? (plans[0] as Explained | undefined)?.Plan?.['Plan Rows'] : undefined;
      return expected === undefined ? undefined : BigInt(Math.round(expected));
    });
  }

  async cancel(): Promise<void> {
    this.cancelled = true;
    await this.cancelAtSource(this.work);
  }

  async close(): Promise<void> {
    await closeQuietly(this.client);
    openSpare(this.settings, this.secret);
  }

  /** Texts of analysts' are looked at before anything of the statement runs; what they make the server say is taken back. */
  private async prepare({ texts = [], values }: Statement): Promise<void> {
    const fresh = texts.filter(({ text }) => !this.admitted.has(text));
    if (fresh.length > 0) {
      try {
        await admit(this.client, fresh, this.mayRun);
      } catch (error) {
        await this.goBack();
        throw error;
      }
      for (const { text } of fresh) this.admitted.add(text);
    }
    await this.setValues(values);
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
  private async cancelAtSource(work: UnderWay): Promise<void> {
    try {
      await withConnection(this.settings, this.secret, async (other) => {
        for (let tries = 0; !work.over && tries < CANCEL_TRIES; tries++) {
          await other.query('select pg_cancel_backend($1)', [this.pid]);
          await Promise.race([work.ended, pause(CANCEL_AGAIN_AFTER)]);
        }
      });
    } catch {
      // Asking failed; cutting below stops it as well, within the second the server checks its client.
    }
    if (!work.over) destroy(this.client);
  }

  /** One statement after the other: its values are settings of the transaction, and those of another would take their place. */
  private guarded<T>(work: () => Promise<T>): Promise<T> {
    const mine = this.turn.then(() => this.inTurn(work));
    this.turn = mine.catch(() => undefined);
    return mine;
  }

  /** Turns driver errors into problems and watches that the source keeps answering within the statement limit. */
  private async inTurn<T>(work: () => Promise<T>): Promise<T> {
    if (this.cancelled) throw refused(409, 'run-cancelled', 'The run was stopped.');
    this.lastSign = Date.now();
    const mine = new UnderWay();
    this.work = mine;
    const watch = setInterval(() => {
      if (Date.now() - this.lastSign > LIMITS.statementTime.value + 5_000) destroy(this.client);
    }, 1_000);
    try {
      return await work();
    } catch (error) {
      if (this.cancelled) throw refused(409, 'run-cancelled', 'The run was stopped.');
      if (isNoRoom(error)) throw noRoom();
      throw error instanceof ProblemException ? error : statementProblem(error);
    } finally {
      clearInterval(watch);
      mine.end();
    }
  }
}

/** A list as one PostgreSQL array literal; every item quoted. */
export function arrayLiteral(items: readonly string[]): string {
  return `{${items.map((item) => `"${item.replaceAll('\\', '\\\\').replaceAll('"', '\\"')}"`).join(',')}}`;
}
