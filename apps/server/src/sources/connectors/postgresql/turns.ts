import type { Client } from 'pg';
import { LIMITS } from '../../../limits';
import { isOwnDisk, ProblemException, refused } from '../../../problems';
import { destroy, withConnection } from './connect';
import { statementProblem } from './errors';
import type { PostgresqlSettings } from './settings';

const CANCEL_TRIES = 40;
const CANCEL_AGAIN_AFTER = 150;

const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** Something that is being done, and ends once, however it ends. */
export class UnderWay {
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

/**
 * What is asked of one connection, one thing after the other, each watched: that the source goes on answering, and that it
 * can be stopped there. Everything rejects with a ProblemException, or with what became of a file that was written meanwhile.
 */
export class Turns {
  private cancelled = false;
  private lastSign = Date.now();
  /** What was asked so far, however it ended. */
  private turn: Promise<unknown> = Promise.resolve();
  /** What is being asked. */
  private work = UnderWay.nothing();

  constructor(
    private readonly client: Client,
    private readonly settings: PostgresqlSettings,
    private readonly secret: string,
    private readonly pid: string,
  ) {}

  /** The source gave a sign of life. */
  sign(): void {
    this.lastSign = Date.now();
  }

  /** Stops what is being asked, at the source, and refuses all that is asked later. */
  async cancel(): Promise<void> {
    this.cancelled = true;
    await this.cancelAtSource(this.work);
  }

  /**
   * Asks the server to stop this connection's statement, again until it has: a request that arrives between the
   * messages of one statement is ignored by the server. When asking gets no answer, or does not help, the connection is cut.
   */
  async cancelAtSource(work: UnderWay = this.work): Promise<void> {
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
  take<T>(work: () => Promise<T>): Promise<T> {
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
      throw error instanceof ProblemException || isOwnDisk(error) ? error : statementProblem(error);
    } finally {
      clearInterval(watch);
      mine.end();
    }
  }
}
