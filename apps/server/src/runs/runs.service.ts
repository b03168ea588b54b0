import type { OnApplicationBootstrap, OnApplicationShutdown } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { Inject, Injectable, Logger } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { In, IsNull, Repository } from 'typeorm';
import type { Ask, CheckedStep, CheckedTrail, Problem } from '@cendra/core';
import { askedRows, askShape, checkedStep, problem, sourcesOf, subTrail } from '@cendra/core';
import { Engine, ResultStore } from '../engine';
import { EventsService } from '../events/events.service';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { notFound, ProblemException, refused } from '../problems';
import type { Source } from '../sources';
import { loginOf, SourcesService } from '../sources';
import { RUNS_ENGINE } from './engines';
import type { StoredRows } from './execute';
import { execute } from './execute';
import { Gate } from './gate';
import { Result } from './result.entity';
import type { Prepared } from './preparing.service';
import { PreparingService } from './preparing.service';
import { ResultsService } from './results.service';
import type { NewRunDto, RunDto } from './run.dto';
import { Run } from './run.entity';

const PROGRESS_EVERY = 300;
const TIDY_EVERY = 600_000;

interface PreparedRun extends Prepared {
  readonly ask: Ask | undefined;
}

@Injectable()
export class RunsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly log = new Logger('runs');
  private readonly gate = new Gate();
  private readonly active = new Map<string, { readonly abort: AbortController; readonly done: Promise<void>; readonly run: Run }>();
  private tidying: NodeJS.Timeout | undefined;

  constructor(
    @InjectRepository(Run) private readonly runs: Repository<Run>,
    @InjectRepository(Result) private readonly results: Repository<Result>,
    private readonly preparing: PreparingService,
    private readonly sources: SourcesService,
    private readonly resultsService: ResultsService,
    private readonly events: EventsService,
    private readonly store: ResultStore,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
  ) {}

  /** Runs an earlier process left open have failed; what they left behind goes. */
  async onApplicationBootstrap(): Promise<void> {
    const stopped = problem('server-stopped', 'The server stopped in the middle of this run.', {}, 'run again');
    await this.runs.update({ state: In(['waiting', 'running']) }, { state: 'failed', problems: [stopped] as never, endedAt: new Date() });
    const known = await this.results.find({ select: { id: true } });
    await this.store.sweep(new Set(known.map((each) => each.id)));
    const lost = known.filter(({ id }) => !this.store.has(this.store.rows(id))).map((each) => each.id);
    if (lost.length > 0) await this.results.delete(lost);
    this.engine.start();
    this.tidying = setInterval(() => void this.resultsService.tidy().catch((error: unknown) => this.log.error(String(error))), TIDY_EVERY);
  }

  async onApplicationShutdown(): Promise<void> {
    clearInterval(this.tidying);
    for (const { abort } of this.active.values()) abort.abort();
    await Promise.allSettled([...this.active.values()].map((each) => each.done));
  }

  /** Checks everything that can be known before running, then starts and gives the run as it stands. */
  async start(person: Person, given: NewRunDto): Promise<RunDto> {
    const prepared = await this.prepare(person, given);
    await this.replace(person, given);
    const waiting = [...this.active.values()].filter((each) => each.run.personId === person.id).length;
    if (waiting >= LIMITS.waitingPerPerson.value)
      throw refused(
        429,
        'too-many-runs',
        'You have too many runs waiting.',
        {},
        `at most ${LIMITS.waitingPerPerson.value}; stop some of them`,
      );
    const run = this.runs.create({
      id: randomUUID(),
      personId: person.id,
      datasetId: given.dataset,
      revision: given.revision,
      stepId: given.step,
      size: given.size,
      ask: prepared.ask?.kind ?? null,
      state: 'waiting',
      slot: given.slot,
      parameterValues: recorded(prepared),
      sources: [...prepared.sources.keys()],
      createdAt: prepared.now,
    });
    await this.runs.insert(run as never);
    const abort = new AbortController();
    const done = this.carryOut(run, prepared, abort.signal).finally(() => this.active.delete(run.id));
    this.active.set(run.id, { abort, done, run });
    return this.shown(run);
  }

  /** The person's own runs, newest first, as far as they still hold the sources. */
  async list(person: Person): Promise<RunDto[]> {
    const runs = await this.runs.find({ where: { personId: person.id, ask: IsNull() }, order: { createdAt: 'DESC' }, take: 100 });
    const seen = await Promise.all(runs.map(async (run) => ((await this.sources.mayUse(person, run.sources)) ? [run] : [])));
    return Promise.all(seen.flat().map((run) => this.shown(run)));
  }

  async forPerson(person: Person, id: string): Promise<Run> {
    const run = await this.runs.findOneBy({ id });
    if (!run || run.personId !== person.id || !(await this.sources.mayUse(person, run.sources))) throw notFound('run');
    return run;
  }

  /** Stops a run at its source; a run that has ended stays as it ended. */
  async cancel(run: Run): Promise<RunDto> {
    const active = this.active.get(run.id);
    active?.abort.abort();
    await active?.done;
    return this.shown((await this.runs.findOneBy({ id: run.id })) ?? run);
  }

  async shown(run: Run): Promise<RunDto> {
    const result = run.resultId ? await this.resultsService.byId(run.resultId) : null;
    const ended = run.endedAt ?? null;
    return {
      id: run.id,
      dataset: run.datasetId,
      revision: run.revision,
      step: run.stepId,
      size: run.size,
      ask: run.ask ?? null,
      state: run.state,
      values: run.parameterValues,
      rowsRead: Number(run.rowsRead ?? 0),
      bytesRead: Number(run.bytesRead ?? 0),
      counts: run.counts ?? null,
      clauses: run.clauses ?? null,
      problems: run.problems ?? [],
      ...(run.detail ? { detail: run.detail } : {}),
      result: result && {
        id: result.id,
        columns: result.columns,
        rows: result.rows,
        complete: result.complete,
        cut: result.cut,
        misfits: result.misfits,
        asOf: result.asOf.toISOString(),
      },
      createdAt: run.createdAt.toISOString(),
      ms: ended && run.startedAt ? ended.getTime() - run.startedAt.getTime() : null,
    };
  }

  private async prepare(person: Person, given: NewRunDto): Promise<PreparedRun> {
    const abort = new AbortController();
    const prepared = await this.preparing.prepare(person, given, abort.signal);
    const { definition, trail, binding, catalogue } = prepared;
    const step = checkedStep(trail, given.step);
    if (!step) throw refused(404, 'step-gone', 'This step is not in the dataset.', { step: given.step });
    const own = { ...definition, steps: subTrail(definition, given.step) };
    const ids = sourcesOf(own);
    if (ids.length === 0 || ids.some((id) => !prepared.sources.has(id)))
      throw refused(
        422,
        'source-gone',
        'A source this dataset reads was removed.',
        { step: given.step },
        'another source, chosen in the table step',
      );
    const ask = given.ask && readAsk(given.ask);
    if (blockedFor(ask, step, trail)) {
      const steps = new Set(own.steps.map((each) => each.id));
      throw new ProblemException(
        422,
        trail.problems.filter((each) => each.severity === 'error' && steps.has(each.place.step ?? '')),
      );
    }
    if (binding.problems.length > 0) throw new ProblemException(422, binding.problems);
    // What an ask gets wrong is told before anything runs.
    if (ask) askedRows(trail, given.step, ask, binding, catalogue);
    const sources = new Map([...prepared.sources].filter(([id]) => ids.includes(id)));
    return { ...prepared, ask, sources };
  }

  /** A newer run of the same slot stops the older ones; they are not waited for. */
  private replace(person: Person, given: NewRunDto): void {
    for (const { run, abort } of this.active.values()) {
      if (run.personId === person.id && run.datasetId === given.dataset && run.slot === given.slot) abort.abort();
    }
  }

  private async carryOut(run: Run, prepared: PreparedRun, signal: AbortSignal): Promise<void> {
    let leave: (() => void) | undefined;
    try {
      const keys = new Map([
        [`person ${run.personId}`, LIMITS.runsPerPerson.value],
        ...run.sources.map((id) => [`source ${id}`, LIMITS.runsPerSource.value] as const),
      ]);
      leave = await this.gate.enter(keys, signal);
      const begun = this.update(run, { state: 'running', startedAt: new Date() });
      await Promise.all([begun, this.executeRun(run, prepared, signal)]);
      await this.update(run, { state: 'done', endedAt: new Date() });
    } catch (error) {
      await this.fail(run, error, signal);
    } finally {
      leave?.();
    }
  }

  private async executeRun(run: Run, prepared: PreparedRun, signal: AbortSignal): Promise<void> {
    let told = 0;
    await execute(
      {
        run: run.id,
        trail: prepared.trail,
        step: run.stepId,
        size: run.size,
        ask: prepared.ask,
        binding: prepared.binding,
        catalogue: prepared.catalogue,
        signal,
        open: (id) => this.sources.open(sourceOf(prepared, id)),
        dialect: (id) => this.sources.connector(sourceOf(prepared, id)).dialect,
        onProgress: ({ rows, bytes }) => {
          if (Date.now() - told < PROGRESS_EVERY) return;
          told = Date.now();
          run.rowsRead = String(rows);
          run.bytesRead = String(bytes);
          void this.tell(run);
        },
        onRows: async (rows) => {
          await this.keep(rows, prepared);
          await this.update(run, { resultId: rows.result, rowsRead: rows.rows });
          await this.resultsService.firstRead(rows.result);
        },
        onCounts: (counts, clauses) =>
          this.update(run, {
            clauses: clauses ?? null,
            counts: counts.map(({ step, rows, failed, fields }) => ({
              step,
              rows: String(rows),
              failed: String(failed),
              fields: fields.map((each) => ({ field: each.field, failed: String(each.failed) })),
            })),
          }),
      },
      this.engine,
      this.store,
    );
  }

  private async keep(rows: StoredRows, prepared: PreparedRun): Promise<void> {
    const seal = { sources: [...prepared.sources.values()].map(({ id, settings }) => ({ id, login: loginOf(settings) })) };
    await this.results.insert({
      id: rows.result,
      columns: rows.columns as never,
      rows: rows.rows,
      complete: rows.complete,
      cut: rows.cut ?? null,
      misfits: rows.misfits as never,
      seal: seal as never,
      bytes: String(rows.bytes),
      asOf: rows.asOf,
      madeAt: new Date(),
    });
  }

  private async fail(run: Run, error: unknown, signal: AbortSignal): Promise<void> {
    const stopped = signal.aborted;
    const known = error instanceof ProblemException;
    if (!known && !stopped) this.log.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
    const problems: readonly Problem[] = known
      ? error.problems
      : [problem('unexpected', 'Something went wrong on the server during this run.', {}, 'run again')];
    const change = stopped
      ? { state: 'cancelled' as const, problems: null }
      : { state: 'failed' as const, problems, detail: known ? (error.detail ?? null) : null };
    await this.update(run, { ...change, endedAt: new Date() }).catch((failure: unknown) => this.log.error(String(failure)));
  }

  private async update(run: Run, change: Partial<Run>): Promise<void> {
    Object.assign(run, change);
    await this.runs.update(run.id, change as never);
    await this.tell(run);
  }

  private async tell(run: Run): Promise<void> {
    this.events.tell({ kind: 'run', person: run.personId, body: { ...(await this.shown(run)), slot: run.slot, sources: run.sources } });
  }
}

/** A field is looked at while it is being written, whatever is wrong in its own step. */
function blockedFor(ask: Ask | undefined, step: CheckedStep, trail: CheckedTrail): boolean {
  if (!ask || ask.kind === 'failed') return step.blocked;
  return checkedStep(trail, step.step.inputs[0] ?? '')?.blocked ?? true;
}

function readAsk(given: object): Ask {
  const read = askShape.safeParse(given);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  throw refused(
    400,
    'ask-wrong',
    'What is asked is not as it should be.',
    { pointer: `/ask/${issue?.path.join('/') ?? ''}` },
    issue?.message,
  );
}

function sourceOf(prepared: PreparedRun, id: string): Source {
  const source = prepared.sources.get(id);
  if (!source) throw refused(422, 'source-gone', 'A source this dataset reads was removed.');
  return source;
}

/** Values kept with the run; a long list is kept as its length, not in full. */
function recorded({ binding }: PreparedRun) {
  return Object.fromEntries(
    Object.entries(binding.used).map(([id, values]) => [
      id,
      values.length > 1_000 ? [...values.slice(0, 1_000), `… ${values.length} values`] : values,
    ]),
  );
}
