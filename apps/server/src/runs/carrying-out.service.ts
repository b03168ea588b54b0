import { Inject, Injectable, Logger } from '@nestjs/common';
import type { Inspection, Problem } from '@cendra/core';
import { languageOf, problem } from '@cendra/core';
import { Engine, ResultStore } from '../engine';
import { Planner } from '../planning';
import { isAway, isOwnDisk, ownDatabaseAway, ownDisk, ProblemException, refused } from '../problems';
import type { Source } from '../sources';
import { SourcesService } from '../sources';
import { atMostEvery } from './at-most-every';
import { RUNS_ENGINE } from './engines';
import type { StoredRows } from './execute';
import { execute } from './execute';
import { FirstPages } from './first-pages';
import type { Prepared } from './preparing.service';
import { givenOf } from './preparing.service';
import type { Result } from './result.entity';
import { ResultsService } from './results.service';
import type { Run } from './run.entity';
import type { LiveRun } from './run-records.service';
import { RunRecordsService } from './run-records.service';

const PROGRESS_EVERY = 300;

export interface PreparedRun extends Prepared {
  readonly inspection: Inspection | undefined;
}

/** Carries one run out, and keeps what came of it. */
@Injectable()
export class CarryingOutService {
  private readonly log = new Logger('runs');

  constructor(
    private readonly records: RunRecordsService,
    private readonly sources: SourcesService,
    private readonly results: ResultsService,
    private readonly firstPages: FirstPages,
    private readonly store: ResultStore,
    private readonly planner: Planner,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
  ) {}

  /** Never rejects: what goes wrong is the run's end. */
  async carryOut(live: LiveRun, prepared: PreparedRun, enter: () => Promise<() => void>, signal: AbortSignal): Promise<void> {
    let leave: (() => void) | undefined;
    try {
      leave = await enter();
      const waited = live.run.state === 'waiting';
      const begun = waited ? this.records.update(live, { state: 'running', startedAt: new Date() }) : undefined;
      const [counted] = await Promise.all([this.perform(live, prepared, signal), begun]);
      await this.records.update(live, { ...counted, state: 'done', endedAt: new Date() });
    } catch (error) {
      await this.dropFirst(live);
      await this.fail(live, error, signal);
    } finally {
      await this.dropFirst(live);
      leave?.();
    }
  }

  /** Gives what was counted, which is kept with the end of the run. */
  private async perform(live: LiveRun, prepared: PreparedRun, signal: AbortSignal): Promise<Partial<Run>> {
    const { run } = live;
    let counted: Partial<Run> = {};
    const progress = atMostEvery(PROGRESS_EVERY, () => this.records.tell(live));
    await execute(
      {
        run: run.id,
        step: run.stepId,
        size: run.size,
        inspection: prepared.inspection,
        given: givenOf(prepared),
        signal,
        open: (id) => this.sources.open(sourceOf(prepared, id), signal),
        write: this.planner.writes(givenOf(prepared), signal),
        onProgress: ({ rows, bytes }) => {
          run.rowsRead = String(rows);
          run.bytesRead = String(bytes);
          progress.want();
        },
        onFirstRows: (rows) => {
          live.firstRows = this.resultOf(rows, prepared, run.personId);
          this.results.keepEarly(live.firstRows);
          this.records.tell(live);
        },
        onRows: async (rows) => {
          progress.stop();
          live.result = this.resultOf(rows, prepared, run.personId);
          const kept = this.results.keep(live.result).catch((error: unknown) => {
            delete live.result;
            throw error;
          });
          // Whoever hears of the rows may have read them before this goes on.
          const read = prepared.inspection === undefined ? this.firstPages.untilRead(rows.result, signal) : undefined;
          await this.records.announce(live, { resultId: rows.result, rowsRead: rows.rows, stages: rows.stages }, kept);
          await read;
        },
        onExpected: (expected) => {
          live.expected = expected;
          this.records.tell(live);
        },
        onCounts: (counts, clauses) => {
          counted = {
            clauses: clauses ?? null,
            counts: counts.map(({ step, rows, failed, fields, figures }) => ({
              step,
              rows: String(rows),
              failed: String(failed),
              fields: fields.map((each) => ({ field: each.field, failed: String(each.failed) })),
              figures,
            })),
          };
        },
      },
      this.planner,
      this.engine,
      this.store,
    ).finally(progress.stop);
    return counted;
  }

  /** Whoever still reads the first rows when all are there may go on until the run has ended. */
  private async dropFirst(live: LiveRun): Promise<void> {
    const { firstRows } = live;
    delete live.firstRows;
    if (firstRows) await this.results.dropEarly(firstRows);
  }

  private resultOf(rows: StoredRows, prepared: PreparedRun, madeBy: string): Result {
    const seal = { sources: [...prepared.sources.values()].map((each) => ({ id: each.id, login: this.sources.loginOf(each) })) };
    const moments = [...rows.moments].map(([source, asOf]) => ({ source, asOf: asOf.toISOString() }));
    const earliest = Math.min(...[...rows.moments.values()].map((each) => each.getTime()), Date.now());
    return {
      id: rows.result,
      columns: rows.columns,
      rows: rows.rows,
      complete: rows.complete,
      cut: rows.cut ?? null,
      misfits: rows.misfits,
      seal,
      language: languageOf(prepared.definition),
      madeBy,
      bytes: String(rows.bytes),
      asOf: new Date(earliest),
      moments,
      madeAt: new Date(),
    };
  }

  private async fail(live: LiveRun, error: unknown, signal: AbortSignal): Promise<void> {
    const stopped = signal.aborted;
    const known = error instanceof ProblemException;
    if (!known && !stopped) this.log.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
    const problems: readonly Problem[] = known
      ? error.problems
      : isOwnDisk(error)
        ? ownDisk(error).problems
        : isAway(error)
          ? [ownDatabaseAway()]
          : [problem('unexpected', 'Something went wrong on the server during this run.', {}, 'run again')];
    const change = stopped
      ? { state: 'cancelled' as const, problems: null }
      : { state: 'failed' as const, problems, detail: known ? (error.detail ?? null) : null };
    await this.records.update(live, { ...change, endedAt: new Date() }).catch((failure: unknown) => this.log.error(String(failure)));
  }
}

function sourceOf(prepared: PreparedRun, id: string): Source {
  const source = prepared.sources.get(id);
  if (!source) throw refused(422, 'source-gone', 'A source this dataset reads was removed.');
  return source;
}
