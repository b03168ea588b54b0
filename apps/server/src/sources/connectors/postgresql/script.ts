import type { Client } from 'pg';
import type { AskedOfSource, Fill, Problem, ScriptAct, ScriptStatement, SessionCall, TempNames } from '@cendra/core';
import { fillOf, guardStatement, NO_TEMPS } from '@cendra/core';
import { LIMITS } from '../../../limits';
import type { Admitted, Called, RanStatement, RowsDigest, SourceScript, TempRows, TempTable } from '../connector';
import { reachingProblems } from './admit';
import { setValues } from './bound-values';
import { calledOnce, keepCall, refuseCall, tooLarge } from './call';
import { closeQuietly } from './connect';
import { grammar } from './grammar';
import { problemAt, readable, refuseProblems, refuseValues, sentProblem } from './script-problems';
import { Said } from './said';
import type { PostgresqlSettings } from './settings';
import { runAlone } from './run-alone';
import { rowsDigest, tempRows, tempSize, tempTables } from './temp-tables';
import type { Opened, Opening } from './transaction';
import { openTransaction, TEMPS_PATH } from './transaction';
import { Turns } from './turns';

/** A session for a script: a transaction in which only temp objects are made and changed, and that is always taken back. The signal is for opening it. */
export async function openScript(
  settings: PostgresqlSettings,
  secret: string,
  signal?: AbortSignal,
  { exported, admitted = [] }: Opening = {},
): Promise<PostgresqlScript> {
  const idle = `set local idle_in_transaction_session_timeout = ${LIMITS.scriptSession.value + 30_000}`;
  const { client, ...opened } = await openTransaction(settings, secret, { may: 'read write', then: idle }, signal, exported);
  return new PostgresqlScript(client, settings, secret, opened, admitted);
}

/** Says where `text` stands in a statement, so that places the server tells are found again. */
interface Sent {
  readonly text: string;
  back(offset: number): number;
}

export class PostgresqlScript implements SourceScript {
  /** What stood in the session when so many statements had run. */
  private readonly stood: TempNames[] = [NO_TEMPS];
  private readonly turns: Turns;
  private readonly said: Said;
  /** What the server said of functions when the statements were looked at last, by what was asked: they run right after. */
  private readonly reaching = new Map<string, readonly Problem[]>();

  constructor(
    private readonly client: Client,
    private readonly settings: PostgresqlSettings,
    private readonly secret: string,
    private readonly opened: Opened,
    private readonly mayRun: Admitted,
  ) {
    this.turns = new Turns(client, settings, secret, opened.pid);
    this.said = new Said(client);
  }

  get asOf(): Date {
    return this.opened.asOf;
  }

  /** Each of its own savepoint, to which it is taken back where it fails: what stood before stands then as well. */
  run(statement: ScriptStatement): Promise<RanStatement> {
    return this.turns.take(async () => {
      const temps = this.stood.at(-1) ?? NO_TEMPS;
      const before = savepointOf(this.stood.length);
      this.said.take();
      const started = performance.now();
      // A statement before may have changed how long one may take, had everything else let it.
      await this.client.query(`savepoint ${before}; set local statement_timeout = ${LIMITS.statementTime.value}`);
      try {
        const { changed, temps: stands, ...ran } = await (isCall(statement) ? this.kept(statement, temps) : this.ran(statement, temps));
        this.stood.push(stands);
        return { ...ran, changed, ms: Math.round(performance.now() - started), messages: this.said.take() };
      } catch (error) {
        await this.client.query(`rollback to savepoint ${before}`).catch(() => undefined);
        throw problemAt(statement, error);
      }
    });
  }

  look(statements: readonly ScriptStatement[]): Promise<void> {
    return this.turns.take(async () => {
      let temps = this.stood.at(-1) ?? NO_TEMPS;
      this.reaching.clear();
      for (const statement of statements) {
        if (isCall(statement)) await refuseCall(this.client, statement, this.mayRun);
        else ({ temps } = await this.admitted(statement, temps));
      }
    });
  }

  call(statement: ScriptStatement & { readonly call: SessionCall }): Promise<Called> {
    return this.turns.take(async () => {
      this.said.take();
      await refuseCall(this.client, statement, this.mayRun);
      await setValues(this.client, statement.values);
      const started = performance.now();
      await this.client.query('savepoint called');
      const results = await calledOnce(this.client, statement.text);
      await this.client.query('rollback to savepoint called');
      return { results, messages: this.said.take(), ms: Math.round(performance.now() - started) };
    });
  }

  digest(statement: ScriptStatement): Promise<RowsDigest> {
    return this.turns.take(async () => {
      try {
        if (isCall(statement)) await refuseCall(this.client, statement, this.mayRun);
        else await this.admitted(statement, this.stood.at(-1) ?? NO_TEMPS);
        await this.client.query(`savepoint ${savepointOf(this.stood.length)}`);
        await setValues(this.client, statement.values);
        return await rowsDigest(this.client, statement.text);
      } catch (error) {
        throw problemAt(statement, error);
      }
    });
  }

  backTo(statements: number): Promise<void> {
    return this.turns.take(async () => {
      if (statements > this.stood.length - 1) return;
      await this.client.query(`rollback to savepoint ${savepointOf(statements + 1)}`);
      this.stood.length = statements + 1;
    });
  }

  tables(): Promise<readonly TempTable[]> {
    return this.turns.take(() => tempTables(this.client));
  }

  rowsOf(table: TempTable, key: readonly string[], most: number): Promise<TempRows> {
    return this.turns.take(() => tempRows(this.client, table, key, most));
  }

  /** Ends the script; what its session has become is handed on. */
  sealed<S>(how: string, into: (session: Opened & { readonly client: Client }) => S): Promise<S> {
    return this.turns.take(async () => {
      await this.client.query(how);
      return into({ ...this.opened, client: this.client });
    });
  }

  cancel(): Promise<void> {
    return this.turns.cancel();
  }

  close(): Promise<void> {
    return closeQuietly(this.client);
  }

  private async ran(statement: ScriptStatement, temps: TempNames) {
    const looked = await this.admitted(statement, temps);
    await setValues(this.client, statement.values);
    const ran = await this.carriedOut(statement, looked.act);
    const size = looked.act.does === 'reads' || looked.act.does === 'nothing' ? 0 : await tempSize(this.client);
    if (size > LIMITS.tempBytes.value) throw tooLarge();
    const changed = 'tables' in looked.act ? looked.act.tables : looked.act.does === 'fills' ? [looked.act.table] : [];
    return { ...ran, changed, temps: looked.temps };
  }

  /** A routine may change how long one may take, and where names are looked for: nothing of that goes on behind it. */
  private async kept(statement: ScriptStatement & { readonly call: SessionCall }, temps: TempNames) {
    await refuseCall(this.client, statement, this.mayRun);
    await setValues(this.client, statement.values);
    const rows = await keepCall(this.client, statement);
    if ((await tempSize(this.client)) > LIMITS.tempBytes.value) throw tooLarge();
    await this.client.query(`${TEMPS_PATH} set local statement_timeout = ${LIMITS.statementTime.value}`);
    return { rows, changed: [statement.call.into], temps };
  }

  /** Looks at a statement before it runs: by the grammar, by what stands in the session, and by what the server says of its functions. */
  private async admitted(statement: ScriptStatement, temps: TempNames) {
    const { text, moved } = statement.looked;
    try {
      const looked = guardStatement(text, readable(text, await grammar()), temps);
      refuseProblems(looked.problems);
      refuseProblems(await this.reachingOf(looked.asks));
      return looked;
    } catch (error) {
      throw problemAt({ ...statement, moved }, error);
    }
  }

  private async reachingOf(asks: AskedOfSource): Promise<readonly Problem[]> {
    const key = JSON.stringify(asks);
    const found = this.reaching.get(key) ?? (await reachingProblems(this.client, asks, this.mayRun));
    this.reaching.set(key, found);
    return found;
  }

  private async carriedOut({ text, values }: ScriptStatement, act: ScriptAct): Promise<Pick<RanStatement, 'rows' | 'first'>> {
    const whole: Sent = { text, back: (offset) => offset };
    switch (act.does) {
      case 'nothing':
        return { rows: null };
      case 'reads':
      case 'writes':
        return this.reading(whole, act.does === 'reads' ? FIRST_ROWS : 0);
      case 'makes':
        refuseValues(values);
        return { ...(await this.sent(whole, 0)), rows: null };
      case 'fills': {
        if (act.there) return { rows: null };
        const fill = fillOf(text);
        if (!fill) throw new RangeError('a statement that fills a table has its query behind “as”');
        return this.filled(fill, act.table);
      }
    }
  }

  /** The table is made empty; what fills it can do nothing but read, and write into what is temporary. */
  private async filled(fill: Fill, table: string): Promise<Pick<RanStatement, 'rows' | 'first'>> {
    const asQuery = (text: string, begin: number): Sent => ({
      text,
      back: (offset) => (offset < begin ? Math.min(offset, fill.from) : offset - begin + fill.from),
    });
    await this.sent(asQuery(fill.empty, fill.empty.indexOf(fill.query)), 0);
    if (fill.withoutRows) return { rows: '0' };
    const into = `insert into pg_temp."${table.replaceAll('"', '""')}" `;
    return this.reading(asQuery(`${into}${fill.query}`, into.length), 0);
  }

  /** In a transaction of its own that may write to temp tables only, whatever the text says. */
  private async reading(sent: Sent, keep: number): Promise<Pick<RanStatement, 'rows' | 'first'>> {
    await this.client.query('savepoint reading; set transaction read only');
    const ran = await this.sent(sent, keep);
    await this.client.query('release savepoint reading');
    return ran;
  }

  private async sent({ text, back }: Sent, keep: number): Promise<Pick<RanStatement, 'rows' | 'first'>> {
    try {
      const { rows, columns, first } = await runAlone(this.client, text, keep);
      return keep > 0 ? { rows, first: { columns, rows: first } } : { rows };
    } catch (error) {
      throw sentProblem(error, text, back);
    }
  }
}

const isCall = (statement: ScriptStatement): statement is ScriptStatement & { readonly call: SessionCall } => statement.call !== undefined;

const savepointOf = (number: number) => `before_${number}`;

/** So many rows a select in the middle of a script gives are kept to be looked at. */
const FIRST_ROWS = 200;
