import type { OnApplicationShutdown } from '@nestjs/common';
import { Injectable } from '@nestjs/common';
import type { Problem, ScriptStatement, ScriptStep, TempChange, TempState, ToldScript, ToldStatement, ToldTemp } from '@cendra/core';
import { checkedStep, ofKind, scriptsBefore, tempChange } from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { Planner } from '../planning';
import { ProblemException, refused } from '../problems';
import { givenOf, PreparingService } from '../runs/preparing.service';
import type { RanStatement, Source } from '../sources';
import { SourcesService } from '../sources';
import type { KeptSession } from './kept-sessions';
import { KeptSessions } from './kept-sessions';
import type { RunScriptDto } from './script.dto';

/** So many rows of a temp table are shown behind a statement. */
const ROWS_SHOWN = 200;
const SHOWN_CHARACTERS = 200_000;

/** Runs scripts statement by statement, and tells what each did to the temp tables. */
@Injectable()
export class ScriptsService implements OnApplicationShutdown {
  private readonly sessions = new KeptSessions();
  /** Scripts that are running, each of one person. */
  private readonly running = new Set<string>();

  constructor(
    private readonly preparing: PreparingService,
    private readonly planner: Planner,
    private readonly sources: SourcesService,
  ) {}

  /** Sessions that are kept, and scripts that run. */
  get open(): number {
    return this.sessions.count + this.running.size;
  }

  /**
   * Runs a script up to a statement. What stands in its session from an earlier run, as far as it is the same, does not
   * run again: from the first statement that is another, it goes on with what stood before that. It stops at the first
   * error, which is told and not thrown. Statements of scripts it goes on from run before it and are not told of.
   */
  async run(person: Person, held: HeldDatasetOf, { step, values, to }: RunScriptDto, signal: AbortSignal): Promise<ToldScript> {
    const prepared = await this.preparing.prepare(person, held, values, signal);
    const script = ofKind('script', checkedStep(prepared.trail, step)?.step);
    if (!script) throw refused(404, 'step-gone', 'This script is not in the dataset.', { step });
    const session = [...scriptsBefore(prepared.trail.definition, script), script].map((each) => each.id);
    const problems = session.flatMap((each) => checkedStep(prepared.trail, each)?.problems ?? []);
    refuseErrors(problems.filter(({ code }) => code !== 'text-not-described'));
    refuseErrors(prepared.binding.problems);
    const source = held.sources.get(script.source);
    if (!source) throw refused(422, 'source-gone', 'The source of this script was removed.', { step });
    const statements = await this.planner.do('script', { ...givenOf(prepared), step }, signal);
    const key = keyOf(person, held.dataset.id, step);
    if (this.running.has(key))
      throw refused(409, 'script-running', 'This script is running already.', { step }, 'its end, or its session ended');
    this.running.add(key);
    try {
      const leave = await this.sources.enter(person, [source.id], signal);
      try {
        const before = statements.findIndex((each) => each.step === step);
        const told = await this.runIn(
          key,
          script,
          source,
          statements.slice(0, to === undefined ? statements.length : before + to),
          statements,
          signal,
        );
        return ownOf(told, before);
      } finally {
        leave();
      }
    } finally {
      this.running.delete(key);
    }
  }

  /** Ends the session that is kept of a script; whether there was one. */
  end(person: Person, dataset: string, step: string): boolean {
    return this.sessions.end(keyOf(person, dataset, step));
  }

  onApplicationShutdown(): Promise<void> {
    return this.sessions.endAll();
  }

  private async runIn(
    key: string,
    script: ScriptStep,
    source: Source,
    wanted: readonly ScriptStatement[],
    all: readonly ScriptStatement[],
    signal: AbortSignal,
  ): Promise<ToldScript> {
    const session = await this.session(key, script, source, signal);
    const stop = () => void session.script.cancel();
    signal.addEventListener('abort', stop, { once: true });
    try {
      const stood = await this.backToCommon(session, script, wanted);
      const { failed, lost } = await this.goOn(session, script, wanted);
      if (signal.aborted) throw refused(409, 'run-cancelled', 'The script was stopped.');
      const told = session.ran.map((each, at) => ({ ...each.told, ...placeOf(all[at], each.told) }));
      const rest = all.slice(told.length + (failed ? 1 : 0)).map(notRun);
      const statements = [...told, ...(failed ? [failed] : []), ...rest];
      const until = lost ? null : this.sessions.put(key, session).toISOString();
      if (lost) await session.script.close();
      return { statements, stood, asOf: session.script.asOf.toISOString(), until };
    } catch (error) {
      await session.script.close();
      throw error;
    } finally {
      signal.removeEventListener('abort', stop);
    }
  }

  /** The kept session, where it is still of the same kind; else a new one. */
  private async session(key: string, { tempKeys = [] }: ScriptStep, source: Source, signal: AbortSignal): Promise<KeptSession> {
    const like = JSON.stringify([source.id, source.kind, source.settings, source.admitted, tempKeys]);
    const kept = this.sessions.take(key);
    if (kept?.like === like) return kept;
    await kept?.script.close();
    return { script: await this.sources.openScript(source, signal), like, ran: [], states: new Map() };
  }

  /** Takes back what is another statement now; how many stand that do not run again. */
  private async backToCommon(session: KeptSession, script: ScriptStep, wanted: readonly ScriptStatement[]): Promise<number> {
    let common = 0;
    while (common < Math.min(session.ran.length, wanted.length) && session.ran[common]?.sent === sentOf(wanted[common])) common++;
    if (common < session.ran.length) {
      await session.script.backTo(common);
      session.ran.length = common;
      session.states = await statesOf(session, script);
    }
    return common;
  }

  /** Runs what is left to do; of what fails, what is to be told of it, and whether the session was lost with it. */
  private async goOn(session: KeptSession, script: ScriptStep, wanted: readonly ScriptStatement[]): Promise<WentOn> {
    const next = wanted.slice(session.ran.length);
    await session.script.look(next);
    for (const statement of next) {
      try {
        const ran = await session.script.run(statement);
        const temps = await this.tempsBehind(session, script, ran);
        const told = toldOf(statement, ran, temps);
        session.ran.push({ sent: sentOf(statement), told, characters: JSON.stringify(told).length });
      } catch (error) {
        if (!(error instanceof ProblemException) || error.problems[0]?.code === 'run-cancelled') throw error;
        const { detail } = error;
        const problems = error.problems.map((each) => (detail === undefined ? each : { ...each, detail }));
        // Where the source or the connection failed, nothing goes on from what stood there.
        return { failed: { ...notRun(statement), state: 'failed', problems }, lost: error.getStatus() >= 500 };
      }
    }
    return { failed: undefined, lost: false };
  }

  /** The temp tables behind a statement; those it touched with what changed in them. */
  private async tempsBehind(session: KeptSession, script: ScriptStep, { changed }: RanStatement): Promise<readonly ToldTemp[]> {
    const tables = await session.script.tables();
    // Beyond a page's worth of what stands, only counts are told.
    const most = session.ran.reduce((sum, each) => sum + each.characters, 0) < LIMITS.pageBytes.value ? ROWS_SHOWN : 0;
    const told: ToldTemp[] = [];
    const states = new Map<string, TempState>();
    for (const table of tables) {
      const key = keyOfTemp(script, table);
      const before = session.states.get(table.name);
      const own = { name: table.name, columns: table.columns, key };
      if (before && !changed.includes(table.name)) {
        states.set(table.name, before);
        told.push({ ...own, count: before.count });
        continue;
      }
      const after = await stateOf(session, table, key);
      states.set(table.name, after);
      told.push({ ...own, count: after.count, touched: shownOf(tempChange(before, after), after, most) });
    }
    session.states = states;
    return told;
  }
}

interface WentOn {
  readonly failed: ToldStatement | undefined;
  readonly lost: boolean;
}

/** What is told of a script behind so many statements of those it goes on from; where one of them failed, that is thrown. */
function ownOf({ statements, stood, ...told }: ToldScript, before: number): ToldScript {
  const failed = statements.slice(0, before).find(({ state }) => state === 'failed');
  if (failed) throw new ProblemException(422, failed.problems);
  return { ...told, statements: statements.slice(before), stood: Math.max(0, stood - before) };
}

const keyOf = ({ id }: Pick<Person, 'id'>, dataset: string, step: string) => `${id} ${dataset} ${step}`;

/** A statement as it is the same or another: its text and the values in it. */
const sentOf = (statement: ScriptStatement | undefined) => JSON.stringify([statement?.text, statement?.values.map((each) => each.value)]);

type Table = Awaited<ReturnType<KeptSession['script']['tables']>>[number];

/** What the analyst said tells its rows apart, where it still has these columns; else its primary key. */
function keyOfTemp({ tempKeys = [] }: ScriptStep, { name, columns, key }: Table): readonly string[] {
  const said = tempKeys.find((each) => each.table === name)?.columns;
  return said?.every((each) => columns.some((column) => column.name === each)) === true ? said : key;
}

/** Wide rows are fewer: so many cells are read of a table, and so many characters of them kept. */
const CELLS_READ = 40_000;
const CHARACTERS_KEPT = 2_000_000;

async function stateOf({ script }: KeptSession, table: Table, key: readonly string[]): Promise<TempState> {
  const most = Math.min(LIMITS.scriptRows.value, Math.max(1, Math.floor(CELLS_READ / Math.max(1, table.columns.length))));
  const { count, rows } = await script.rowsOf(table, key, most);
  return { columns: table.columns.map(({ name }) => name), key, count, rows: within(rows, CHARACTERS_KEPT) };
}

/** The rows that have room in so many characters, from the first one on. */
function within(rows: TempState['rows'], most: number): TempState['rows'] {
  let characters = 0;
  const end = rows.findIndex((row) => (characters += row.reduce((sum, cell) => sum + (cell?.length ?? 0) + 1, 0)) > most);
  return end < 0 ? rows : rows.slice(0, end);
}

/** What is shown of a change: the first rows, as far as they have room. */
function shownOf(change: TempChange, after: TempState, most: number): NonNullable<ToldTemp['touched']> {
  const rows = within(after.rows.slice(0, most), SHOWN_CHARACTERS);
  if (change.by !== 'key') return { change, rows };
  return {
    change: { ...change, rows: change.rows.slice(0, rows.length), goneRows: within(change.goneRows.slice(0, most), SHOWN_CHARACTERS) },
    rows,
  };
}

async function statesOf(session: KeptSession, script: ScriptStep): Promise<Map<string, TempState>> {
  const states = new Map<string, TempState>();
  for (const table of await session.script.tables()) states.set(table.name, await stateOf(session, table, keyOfTemp(script, table)));
  return states;
}

function toldOf(
  { number, from, to }: ScriptStatement,
  { rows, ms, messages, first }: RanStatement,
  temps: readonly ToldTemp[],
): ToldStatement {
  return { number, from, to, state: 'ran', rows, ms, messages, ...(first ? { first } : {}), temps, problems: [] };
}

const notRun = ({ number, from, to }: ScriptStatement): ToldStatement => ({
  number,
  from,
  to,
  state: 'not run',
  rows: null,
  ms: null,
  messages: [],
  temps: [],
  problems: [],
});

/** Where a statement stands in the text now; what stood before it may have become longer. */
const placeOf = (statement: ScriptStatement | undefined, { from, to }: ToldStatement) => ({
  from: statement?.from ?? from,
  to: statement?.to ?? to,
});

function refuseErrors(problems: readonly Problem[]): void {
  const errors = problems.filter((each) => each.severity === 'error');
  if (errors.length > 0) throw new ProblemException(422, errors);
}
