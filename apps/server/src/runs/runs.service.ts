import type { OnApplicationBootstrap, OnApplicationShutdown } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { Injectable, Logger } from '@nestjs/common';
import type { Inspection, OutlinedStep, TrailOutline } from '@cendra/core';
import { checkedStep, inspectionShape, sourcesOf, subTrail } from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { RightsClock } from '../people';
import { Planner } from '../planning';
import { ProblemException, refused } from '../problems';
import type { PreparedRun } from './carrying-out.service';
import { CarryingOutService } from './carrying-out.service';
import { Gate } from '../engine';
import { SourcesService } from '../sources';
import { givenOf, missingSources, PreparingService } from './preparing.service';
import { ResultsService } from './results.service';
import type { NewRunDto, RunDto } from './run.dto';
import type { Run } from './run.entity';
import type { LiveRun } from './run-records.service';
import { RunRecordsService } from './run-records.service';
import { recordedValues } from './recorded-values';

const TIDY_EVERY = 120_000;
const FORGOTTEN_EVERY = 30_000;

interface Active {
  readonly person: Pick<Person, 'id' | 'role'>;
  readonly live: LiveRun;
  readonly abort: AbortController;
  readonly done: Promise<void>;
}

/** Runs under way: started, replaced by newer ones, stopped. */
@Injectable()
export class RunsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly log = new Logger('runs');
  private readonly gate = new Gate();
  private readonly active = new Map<string, Active>();
  private sweeping: readonly NodeJS.Timeout[] = [];

  constructor(
    private readonly records: RunRecordsService,
    private readonly preparing: PreparingService,
    private readonly carrying: CarryingOutService,
    private readonly results: ResultsService,
    private readonly sources: SourcesService,
    private readonly planner: Planner,
    private readonly clock: RightsClock,
  ) {}

  /** What an earlier process left behind goes. */
  async onApplicationBootstrap(): Promise<void> {
    await this.records.failOpen();
    await this.results.sweep();
    const every = (ms: number, work: () => Promise<void>) =>
      setInterval(() => void work().catch((error: unknown) => this.log.error(String(error))), ms);
    this.clock.onMoved(() => void this.stopUnheld().catch((error: unknown) => this.log.error(String(error))));
    this.sweeping = [
      every(TIDY_EVERY, () => this.results.tidy()),
      every(TIDY_EVERY, () => this.results.mend()),
      every(FORGOTTEN_EVERY, () => this.records.failForgotten([...this.active.keys()])),
    ];
  }

  async onApplicationShutdown(): Promise<void> {
    for (const each of this.sweeping) clearInterval(each);
    for (const { abort } of this.active.values()) abort.abort();
    await Promise.allSettled([...this.active.values()].map((each) => each.done));
  }

  /** Checks everything that can be known before running, then starts and gives the run as it stands. */
  async start(person: Person, held: HeldDatasetOf, given: NewRunDto): Promise<RunDto> {
    const prepared = await this.prepare(person, held, given);
    this.replace(person, given);
    const waiting = [...this.active.values()].filter((each) => each.live.run.personId === person.id).length;
    if (waiting >= LIMITS.waitingPerPerson.value)
      throw refused(
        429,
        'too-many-runs',
        'You have too many runs waiting.',
        {},
        `at most ${LIMITS.waitingPerPerson.value}; stop some of them`,
      );
    const sources = [...prepared.sources.keys()];
    const keys = new Map([
      [`person ${person.id}`, LIMITS.runsPerPerson.value],
      ...sources.map((id) => [`source ${id}`, LIMITS.runsPerSource.value] as const),
    ]);
    const { kept, privateValues } = recorded(prepared);
    if (given.size === 'full' && !prepared.inspection && Object.keys(privateValues).length === 0)
      await this.refuseTooMany({
        personId: person.id,
        datasetId: given.dataset,
        revision: given.revision,
        stepId: given.step,
        parameterValues: kept,
      });
    const leave = this.gate.tryEnter(keys);
    const run = this.records.create({
      id: randomUUID(),
      personId: person.id,
      datasetId: given.dataset,
      revision: given.revision,
      stepId: given.step,
      size: given.size,
      inspection: prepared.inspection?.kind ?? null,
      state: leave ? 'running' : 'waiting',
      slot: given.slot,
      parameterValues: kept,
      sources,
      createdAt: prepared.now,
      startedAt: leave ? new Date() : null,
    });
    const live: LiveRun = { run, privateValues };
    const abort = new AbortController();
    // The source is asked while the run is written down; a run that cannot be is stopped.
    const inserted = this.records.insert(live);
    const enter = () => (leave ? Promise.resolve(leave) : this.gate.enter(keys, abort.signal));
    const done = this.carrying.carryOut(live, prepared, enter, abort.signal).finally(() => this.active.delete(run.id));
    this.active.set(run.id, { person, live, abort, done });
    await inserted.catch((error: unknown) => {
      abort.abort();
      throw error;
    });
    return this.records.shownLive(live);
  }

  /** Where a run before told how many rows there are, and they are more than a result may have, they are not read at all. */
  private async refuseTooMany(of: Parameters<RunRecordsService['rowsBefore']>[0]): Promise<void> {
    const rows = await this.records.rowsBefore(of);
    const most = LIMITS.resultRows.value;
    if (rows !== undefined && rows > BigInt(most))
      throw refused(
        422,
        'result-too-large',
        `This step gave ${rows} rows when it was last counted, and a result has ${most} at most.`,
        { step: of.stepId },
        'criteria that keep fewer rows',
      );
  }

  /** Runs under way, and those that wait for their turn. */
  get load(): { readonly running: number; readonly waiting: number } {
    const waiting = [...this.active.values()].filter(({ live }) => live.run.state === 'waiting').length;
    return { running: this.active.size - waiting, waiting };
  }

  /** Stops a run at its source; a run that has ended stays as it ended. */
  async cancel(run: Run): Promise<RunDto> {
    const active = this.active.get(run.id);
    active?.abort.abort();
    await active?.done;
    return active ? this.records.shownLive(active.live) : this.records.shown(await this.records.again(run));
  }

  /** As it stands; of a run under way also what is not kept. */
  shown(run: Run): Promise<RunDto> | RunDto {
    const active = this.active.get(run.id);
    return active ? this.records.shownLive(active.live) : this.records.shown(run);
  }

  private async prepare(person: Person, held: HeldDatasetOf, given: NewRunDto): Promise<PreparedRun> {
    const abort = new AbortController();
    const prepared = await this.preparing.prepare(person, held, given.values, abort.signal);
    const { definition, trail, binding } = prepared;
    const step = checkedStep(trail, given.step);
    if (!step) throw refused(404, 'step-gone', 'This step is not in the dataset.', { step: given.step });
    const steps = subTrail(definition, given.step);
    if (missingSources(steps, prepared.sources).length > 0)
      throw refused(
        422,
        'source-gone',
        'A source this dataset reads was removed.',
        { step: given.step },
        'another source, chosen in the table step',
      );
    const inspection = given.inspection && readInspection(given.inspection);
    if (blockedFor(inspection, step, trail)) {
      const ids = new Set(steps.map((each) => each.id));
      throw new ProblemException(
        422,
        trail.problems.filter((each) => each.severity === 'error' && ids.has(each.place.step ?? '')),
      );
    }
    if (binding.problems.length > 0) throw new ProblemException(422, binding.problems);
    // What an inspection gets wrong is told before anything runs.
    if (inspection) await this.planner.do('inspect', { ...givenOf(prepared), step: given.step, inspection }, abort.signal);
    const ids = sourcesOf({ steps });
    const sources = new Map([...prepared.sources].filter(([id]) => ids.includes(id)));
    return { ...prepared, inspection, sources };
  }

  /** Who lost a source while a run of theirs reads it does not get its rows. */
  private async stopUnheld(): Promise<void> {
    for (const { person, live, abort } of [...this.active.values()])
      if (!(await this.sources.mayUse(person, live.run.sources))) abort.abort();
  }

  /** A newer run of the same slot stops the older ones; they are not waited for. */
  private replace(person: Person, given: NewRunDto): void {
    for (const { live, abort } of this.active.values()) {
      const { run } = live;
      if (run.personId === person.id && run.datasetId === given.dataset && run.slot === given.slot) abort.abort();
    }
  }
}

/** A field is looked at while it is being written, whatever is wrong in its own step. */
function blockedFor(inspection: Inspection | undefined, step: OutlinedStep, trail: TrailOutline): boolean {
  if (!inspection || inspection.kind === 'failed') return step.blocked;
  const [input] = step.step.inputs;
  return typeof input !== 'string' || (checkedStep(trail, input)?.blocked ?? true);
}

function readInspection(given: object): Inspection {
  const read = inspectionShape.safeParse(given);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  throw refused(
    400,
    'inspection-wrong',
    'What is asked is not as it should be.',
    { pointer: `/inspection/${issue?.path.join('/') ?? ''}` },
    issue?.message,
  );
}

/** Values kept with the run; those of parameters marked private are not kept. */
function recorded({ binding, definition }: PreparedRun) {
  const isPrivate = new Set(definition.parameters.flatMap((each) => (each.isPrivate ? [each.id] : [])));
  const shortened = Object.entries(binding.used).map(([id, values]) => [id, recordedValues(values)] as const);
  return {
    kept: Object.fromEntries(shortened.filter(([id]) => !isPrivate.has(id))),
    privateValues: Object.fromEntries(shortened.filter(([id]) => isPrivate.has(id))),
  };
}
