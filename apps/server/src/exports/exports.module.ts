import { Module } from '@nestjs/common';
import { DatasetsModule } from '../datasets/datasets.module';
import { LinksModule } from '../links';
import { PlanningModule } from '../planning';
import { RunsModule } from '../runs/runs.module';
import { InUse } from '../health/in-use';
import { AboutService } from './about.service';
import { ExportsController } from './exports.controller';
import { ProofModule } from '../proof/proof.module';
import { PapersController } from './papers.controller';
import { ExportFilesService } from './export-files.service';

@Module({
  imports: [DatasetsModule, LinksModule, PlanningModule, ProofModule, RunsModule],
  controllers: [ExportsController, PapersController],
  providers: [AboutService, ExportFilesService],
})
export class ExportsModule {
  constructor(files: ExportFilesService, inUse: InUse) {
    inUse.add({ name: 'files', unit: 'files', says: 'downloads being prepared', most: 'filesAtOnce', now: () => files.atWork });
  }
}
