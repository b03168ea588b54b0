import type { OnApplicationBootstrap, OnApplicationShutdown } from '@nestjs/common';
import { Inject, Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { DatasetsModule } from '../datasets/datasets.module';
import type { StoredKind } from '../engine';
import { Engine, ResultStore } from '../engine';
import { InUse } from '../health/in-use';
import { PlanningModule } from '../planning';
import { SourcesModule } from '../sources/sources.module';
import { AnswersController } from './answers.controller';
import { AnswersService } from './answers.service';
import { engineProviders, EXPORTS_ENGINE, PAGES_ENGINE, RUNS_ENGINE } from './engines';
import { PreparingService } from './preparing.service';
import { Result } from './result.entity';
import { CarryingOutService } from './carrying-out.service';
import { FirstPages } from './first-pages';
import { HeldResult, HeldRun } from './held-result';
import { ResultsService } from './results.service';
import { RunRecordsService } from './run-records.service';
import { Run } from './run.entity';
import { ResultsController, RunsController } from './runs.controller';
import { RunsService } from './runs.service';

@Module({
  imports: [TypeOrmModule.forFeature([Run, Result]), DatasetsModule, PlanningModule, SourcesModule],
  controllers: [RunsController, ResultsController, AnswersController],
  providers: [
    ...engineProviders,
    FirstPages,
    ResultsService,
    HeldResult,
    HeldRun,
    RunRecordsService,
    PreparingService,
    CarryingOutService,
    RunsService,
    AnswersService,
  ],
  exports: [
    ResultsService,
    RunRecordsService,
    HeldResult,
    PreparingService,
    AnswersService,
    ResultStore,
    RUNS_ENGINE,
    PAGES_ENGINE,
    EXPORTS_ENGINE,
  ],
})
export class RunsModule implements OnApplicationBootstrap, OnApplicationShutdown {
  constructor(
    @Inject(RUNS_ENGINE) private readonly runsEngine: Engine,
    @Inject(PAGES_ENGINE) private readonly pagesEngine: Engine,
    @Inject(EXPORTS_ENGINE) private readonly exportsEngine: Engine,
    runs: RunsService,
    store: ResultStore,
    inUse: InUse,
  ) {
    const engines = [runsEngine, pagesEngine, exportsEngine];
    // Asked for all kinds at once: the folders are read once.
    let reading: ReturnType<ResultStore['usage']> | undefined;
    const stored = (kind: StoredKind) => async () => {
      reading ??= store.usage().finally(() => (reading = undefined));
      return (await reading)[kind];
    };
    inUse.add(
      { name: 'runs', unit: 'runs', says: 'runs under way', now: () => runs.load.running },
      { name: 'runsWaiting', unit: 'runs', says: 'runs that wait for their turn', now: () => runs.load.waiting },
      {
        name: 'engine',
        unit: 'bytes',
        says: 'memory of the combine engine',
        most: 'engineMemory',
        now: async () => (await Promise.all(engines.map((each) => each.memory()))).reduce((sum, each) => sum + each, 0),
      },
      { name: 'storedRows', unit: 'bytes', says: 'stored results: their rows', most: 'storeBytes', now: stored('rows') },
      { name: 'storedSorts', unit: 'bytes', says: 'stored results: sorted views', most: 'storeBytes', now: stored('sorted') },
      { name: 'storedProofs', unit: 'bytes', says: 'stored results: proofs', most: 'storeBytes', now: stored('proofs') },
      { name: 'storedUnderWay', unit: 'bytes', says: 'files of runs and downloads under way', now: stored('under way') },
    );
  }

  /** Nobody's first run or first page waits for a process. */
  onApplicationBootstrap(): void {
    this.runsEngine.start();
    this.pagesEngine.start();
  }

  async onApplicationShutdown(): Promise<void> {
    await Promise.all([this.runsEngine.stop(), this.pagesEngine.stop(), this.exportsEngine.stop()]);
  }
}
