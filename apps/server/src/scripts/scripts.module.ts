import { Module } from '@nestjs/common';
import { DatasetsModule } from '../datasets/datasets.module';
import { InUse } from '../health/in-use';
import { PlanningModule } from '../planning';
import { RunsModule } from '../runs/runs.module';
import { SourcesModule } from '../sources/sources.module';
import { ScriptsController } from './scripts.controller';
import { ScriptsService } from './scripts.service';

@Module({
  imports: [DatasetsModule, PlanningModule, RunsModule, SourcesModule],
  controllers: [ScriptsController],
  providers: [ScriptsService],
})
export class ScriptsModule {
  constructor(scripts: ScriptsService, inUse: InUse) {
    inUse.add({
      name: 'scripts',
      unit: 'runs',
      says: 'sessions of scripts that are open at sources',
      most: 'scriptSessions',
      now: () => scripts.open,
    });
  }
}
