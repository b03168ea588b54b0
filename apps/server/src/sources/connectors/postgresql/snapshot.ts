import type { Client, QueryArrayResult } from 'pg';
import type { ScriptStatement, Statement } from '@cendra/core';
import { admit } from './admit';
import { setValues } from './bound-values';
import { Said } from './said';
import type { Admitted, CopyLimits, CopyOutcome, CopyProgress, SaidMessage, SegmentSink, SourceSnapshot } from '../connector';
import { closeQuietly, openSpare } from './connect';
import { copyInSegments } from './copy';
import type { PostgresqlSettings } from './settings';
import type { Opened, Opening } from './transaction';
import { alone, openTransaction } from './transaction';
import { openScript } from './script';
import { Turns, UnderWay } from './turns';

/** One repeatable-read, read-only transaction on a fresh connection, of now or of a snapshot that is open. */
export async function openSnapshot(
  settings: PostgresqlSettings,
  secret: string,
  signal?: AbortSignal,
  { exported, admitted = [] }: Opening = {},
): Promise<SourceSnapshot> {
  // To the savepoint goes back what is stopped in the middle; the moment stays.
  const how = { may: 'read only', then: `savepoint ${SAVEPOINT}` } as const;
  const { client, ...opened } = await openTransaction(settings, secret, how, signal, exported);
  return new PostgresqlSnapshot(client, settings, secret, opened, admitted);
}

const SAVEPOINT = 'moment';
const GO_BACK_TRIES = 3;

/** What is read of an explained statement. */
interface Explained {
  readonly Plan?: { readonly 'Plan Rows'?: number };
}

class PostgresqlSnapshot implements SourceSnapshot {
  /** Texts that were looked at at this moment. */
  private readonly admitted = new Set<string>();
  private readonly turns: Turns;
  private readonly heard: Said;

  constructor(
    private readonly client: Client,
    private readonly settings: PostgresqlSettings,
    private readonly secret: string,
    { pid, asOf }: Opened,
    private readonly mayRun: Admitted,
    said: readonly SaidMessage[] = [],
  ) {
    this.asOf = asOf;
    this.heard = new Said(client, said);
    this.turns = new Turns(client, settings, secret, pid);
  }

  readonly asOf: Date;

  async copyTo(
    sink: SegmentSink,
    statement: Statement,
    limits: CopyLimits,
    onProgress: (progress: CopyProgress) => void,
  ): Promise<CopyOutcome> {
    return this.turns.take(async () => {
      await this.prepare(statement);
      const signs = (progress: CopyProgress) => {
        this.turns.sign();
        onProgress(progress);
      };
      const alive: SegmentSink = {
        next: () => sink.next(),
        take: async (segment) => {
          await sink.take(segment);
          // While its rows are being taken the source may not send any.
          this.turns.sign();
        },
      };
      const text = `copy (${statement.text}) to stdout (format csv)`;
      const copying = new UnderWay();
      let stopping: Promise<void> | undefined;
      const stop = () => void (stopping ??= this.turns.cancelAtSource(copying));
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

  async session(script: readonly ScriptStatement[] = [], signal?: AbortSignal): Promise<SourceSnapshot> {
    const id = await this.turns.take(async () => {
      // Behind a savepoint there is nothing to export.
      const text = `release savepoint ${SAVEPOINT}; select pg_export_snapshot(); savepoint ${SAVEPOINT}`;
      const answers = (await this.client.query({ text, rowMode: 'array' })) as unknown as readonly QueryArrayResult<[string]>[];
      return answers[1]?.rows[0]?.[0] ?? '';
    });
    const exported = { id, asOf: this.asOf };
    if (script.length === 0) return openSnapshot(this.settings, this.secret, undefined, { exported, admitted: this.mayRun });
    const running = await openScript(this.settings, this.secret, signal, { exported, admitted: this.mayRun });
    const stop = () => void running.cancel();
    signal?.addEventListener('abort', stop, { once: true });
    try {
      await running.look(script);
      const said: SaidMessage[] = [];
      for (const statement of script) said.push(...(await running.run(statement)).messages);
      return await running.sealed(`set transaction read only; savepoint ${SAVEPOINT}`, ({ client, ...opened }) => {
        return new PostgresqlSnapshot(client, this.settings, this.secret, opened, this.mayRun, said);
      });
    } catch (error) {
      await running.close();
      throw error;
    } finally {
      signal?.removeEventListener('abort', stop);
    }
  }

  async rows(statement: Statement): Promise<readonly (readonly (string | null)[])[]> {
    return this.turns.take(async () => {
      await this.prepare(statement);
      const result = await this.client.query<(string | null)[]>(alone(statement.text));
      return result.rows;
    });
  }

  async estimate(statement: Statement): Promise<bigint | undefined> {
    return this.turns.take(async () => {
      await this.prepare(statement);
      const text = `explain (format json) ${statement.text}`;
      const { rows } = await this.client.query<[string]>(alone(text));
      const plans: unknown = JSON.parse(rows[0]?.[0] ?? '[]');
      const expected = Array.isArray(plans) ? (plans[0] as Explained | undefined)?.Plan?.['Plan Rows'] : undefined;
      return expected === undefined ? undefined : BigInt(Math.round(expected));
    });
  }

  said(): readonly SaidMessage[] {
    return this.heard.take();
  }

  cancel(): Promise<void> {
    return this.turns.cancel();
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
    await setValues(this.client, values);
  }
}
