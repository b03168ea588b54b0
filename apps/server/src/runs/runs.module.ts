import type { OnApplicationBootstrap, OnApplicationShutdown } from '@nestjs/common';
import { Inject, Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { DatasetsModule } from '../datasets/datasets.module';
import { Engine, ResultStore } from '../engine';
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
  exports: [ResultsService, HeldResult, ResultStore, RUNS_ENGINE, PAGES_ENGINE, EXPORTS_ENGINE],
})
export class RunsModule implements OnApplicationBootstrap, OnApplicationShutdown {
  constructor(
    @Inject(RUNS_ENGINE) private readonly runsEngine: Engine,
    @Inject(PAGES_ENGINE) private readonly pagesEngine: Engine,
    @Inject(EXPORTS_ENGINE) private readonly exportsEngine: Engine,
  ) {}

  /** Nobody's first run or first page waits for a process. */
  onApplicationBootstrap(): void {
    this.runsEngine.start();
    this.pagesEngine.start();
  }

  async onApplicationShutdown(): Promise<void> {
    await Promise.all([this.runsEngine.stop(), this.pagesEngine.stop(), this.exportsEngine.stop()]);
  }
}
