import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { In, IsNull, LessThan, Not, Repository } from 'typeorm';
import type { GivenValues } from '@cendra/core';
import { beginning, equal, problem } from '@cendra/core';
import { EventsService } from '../events/events.service';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { notFound, whileAway } from '../problems';
import { SourcesService } from '../sources';
import type { Result } from './result.entity';
import { ResultsService } from './results.service';
import type { RunDto, RunLineDto } from './run.dto';
import { Run } from './run.entity';

const LISTED = 100;
const OPEN = ['waiting', 'running'] as const;
/** A row is written within this after its run was made known, in ms. */
const FORGOTTEN_AFTER = 60_000;
/** A run as it is carried out: its row, what is known of its result, and the values that are not to be kept. */
export interface LiveRun {
  readonly run: Run;
  /** Values of parameters marked private; they live as long as the run does. */
  readonly privateValues: Readonly<Record<string, readonly string[]>>;
  result?: Result;
  /** The first rows, until all of them are there. */
  firstRows?: Result;
  /** How many rows sources expect at steps, until they are counted. */
  expected?: readonly { readonly step: string; readonly rows: string }[];
  /** Settles when what was last told of it is written. */
  written?: Promise<unknown>;
}

/** The rows that say what runs are and were, and the news of them. */
@Injectable()
export class RunRecordsService {
  constructor(
    @InjectRepository(Run) private readonly runs: Repository<Run>,
    private readonly results: ResultsService,
    private readonly sources: SourcesService,
    private readonly events: EventsService,
  ) {}

  /** Runs an earlier process left open have failed. */
  async failOpen(): Promise<void> {
    const stopped = problem('server-stopped', 'The server stopped in the middle of this run.', {}, 'run again');
    await this.runs.update({ state: In(OPEN) }, { state: 'failed', problems: [stopped] as never, endedAt: new Date() });
  }

  /** Runs whose row says that they are open while nobody carries them out: how they ended could not be written down. */
  async failForgotten(underWay: readonly string[], now = new Date()): Promise<void> {
    const forgotten = problem('end-unknown', 'How this run ended could not be written down.', {}, 'run again');
    const old = new Date(now.getTime() - FORGOTTEN_AFTER);
    await this.runs.update(
      { state: In(OPEN), createdAt: LessThan(old), ...(underWay.length > 0 ? { id: Not(In([...underWay])) } : {}) },
      { state: 'failed', problems: [forgotten] as never, endedAt: now },
    );
  }

  /** The values a result was got with; none where no run of it is recorded any more. */
  async valuesOf(result: string): Promise<GivenValues> {
    const run = await this.runs.findOneBy({ resultId: result });
    return run?.parameterValues ?? {};
  }

  /** How many rows a step gave in the last run of the same revision with the same values; undefined where none told. */
  async rowsBefore({
    personId,
    datasetId,
    revision,
    stepId,
    parameterValues,
  }: Pick<Run, 'personId' | 'datasetId' | 'revision' | 'stepId' | 'parameterValues'>): Promise<bigint | undefined> {
    const where = { personId, datasetId, revision, stepId, inspection: IsNull(), state: 'done' as const };
    const before = await this.runs.findOne({
      where,
      order: { createdAt: 'DESC' },
      select: { id: true, counts: true, parameterValues: true } as never,
    });
    const rows = before?.counts?.find((each) => each.step === stepId)?.rows;
    return before && rows !== undefined && equal(before.parameterValues, parameterValues) ? BigInt(rows) : undefined;
  }

  create(given: Partial<Run>): Run {
    return this.runs.create(given);
  }

  async insert(live: LiveRun): Promise<void> {
    await this.write(live, () => this.runs.insert(live.run as never), false);
    this.tell(live);
  }

  async update(live: LiveRun, change: Partial<Run>): Promise<void> {
    Object.assign(live.run, change);
    await this.write(live, () => this.runs.update(live.run.id, change as never));
    this.tell(live);
  }

  /** Of a run under way: who hears of it asks this process, which knows it, while rows are still being written, that of its result before its own. */
  async announce(live: LiveRun, change: Partial<Run>, before: Promise<unknown>): Promise<void> {
    Object.assign(live.run, change);
    this.tell(live);
    await this.write(live, () => before.then(() => this.runs.update(live.run.id, change as never)));
  }

  /**
   * What is written of a run is written in the order it was told. While the own database is away it is tried again for a
   * while: it may have been restarted, and what was done is done.
   */
  private write(live: LiveRun, work: () => Promise<unknown>, patient = true): Promise<unknown> {
    const written = Promise.resolve(live.written).then(() => (patient ? whileAway(work) : work()));
    live.written = written.catch(() => undefined);
    return written;
  }

  tell(live: LiveRun): void {
    const { run } = live;
    this.events.tell({
      kind: 'run',
      person: run.personId,
      body: { ...this.shownLive(live), values: {}, slot: run.slot, sources: run.sources },
    });
  }

  /** The person's own runs, newest first, as far as they still hold the sources. */
  async list(person: Person): Promise<RunLineDto[]> {
    const runs = await this.runs.find({
      where: { personId: person.id, inspection: IsNull() },
      order: { createdAt: 'DESC' },
      take: LISTED,
      select: IN_A_LINE as never,
    });
    const held = await this.sources.held(person, [...new Set(runs.flatMap((each) => each.sources))]);
    const seen = runs.filter((run) => person.role === 'steward' || run.sources.every((id) => held.sources.has(id)));
    return seen.map(lineOf);
  }

  /** The person's own run, if they hold its sources at this moment. */
  async forPerson(person: Person, id: string): Promise<Run> {
    const run = await this.runs.findOneBy({ id });
    if (!run || run.personId !== person.id || !(await this.sources.mayUse(person, run.sources))) throw notFound('run');
    return run;
  }

  async again(run: Run): Promise<Run> {
    return (await this.runs.findOneBy({ id: run.id })) ?? run;
  }

  async shown(run: Run): Promise<RunDto> {
    return shownRun(run, run.resultId ? await this.results.byId(run.resultId) : null);
  }

  shownLive({ run, result, firstRows, expected, privateValues }: LiveRun): RunDto {
    const shown = shownRun(run, result ?? null);
    return {
      ...shown,
      expected: run.counts ? [] : (expected ?? []),
      firstRows: firstRows && !result ? shownResult(firstRows) : null,
      values: { ...shown.values, ...privateValues },
    };
  }
}

/** What a line of the list needs; values, counts and the like can be large. */
const IN_A_LINE = {
  id: true,
  datasetId: true,
  revision: true,
  stepId: true,
  size: true,
  state: true,
  sources: true,
  rowsRead: true,
  problems: true,
  createdAt: true,
  startedAt: true,
  endedAt: true,
} as const satisfies Partial<Record<keyof Run, true>>;
const MOST_TOLD = 500;

function lineOf(run: Pick<Run, keyof typeof IN_A_LINE>): RunLineDto {
  const told = (run.problems ?? []).map((each) => each.message).join(' ');
  return {
    ...toldOf(run),
    rows: Number(run.rowsRead),
    told: beginning(told, MOST_TOLD),
  };
}

/** What a line of the list and the run itself both tell. */
const toldOf = (run: Omit<Pick<Run, keyof typeof IN_A_LINE>, 'problems'>) => ({
  id: run.id,
  dataset: run.datasetId,
  revision: run.revision,
  step: run.stepId,
  size: run.size,
  state: run.state,
  createdAt: run.createdAt.toISOString(),
  ms: run.endedAt && run.startedAt ? run.endedAt.getTime() - run.startedAt.getTime() : null,
});

function shownRun(run: Run, result: Result | null): RunDto {
  return {
    ...toldOf(run),
    inspection: run.inspection ?? null,
    values: run.parameterValues,
    mostRows: LIMITS.resultRows.value,
    rowsRead: Number(run.rowsRead ?? 0),
    bytesRead: Number(run.bytesRead ?? 0),
    counts: run.counts?.map((each) => ({ ...each, figures: each.figures ?? [] })) ?? null,
    clauses: run.clauses ?? null,
    stages: run.stages ?? null,
    problems: run.problems ?? [],
    ...(run.detail ? { detail: run.detail } : {}),
    result: result && shownResult(result),
    firstRows: null,
    expected: [],
  };
}

/** A result in words for the wire: the earliest of its sources' moments is what all of it is as of. */
export const shownResult = ({ id, columns, rows, complete, cut, misfits, asOf, moments }: Result) => ({
  id,
  columns,
  rows,
  complete,
  cut,
  misfits,
  asOf: asOf.toISOString(),
  moments,
});
