import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { PlanningModule } from '../planning';
import { SourcesModule } from '../sources/sources.module';
import { Dataset } from './dataset.entity';
import { DatasetLifeService } from './dataset-life.service';
import { DatasetListService } from './dataset-list.service';
import { DatasetsController } from './datasets.controller';
import { EditingService } from './editing.service';
import { DatasetRights, HeldDataset, HeldEvenDeleted, HeldForGood } from './held-dataset';
import { KnownTablesService } from './known-tables.service';
import { LastValue } from './last-value.entity';
import { LastValuesController } from './last-values.controller';
import { Revision } from './revision.entity';
import { RevisionsService } from './revisions.service';

const SHARED = [RevisionsService, DatasetRights, KnownTablesService, DatasetLifeService, DatasetListService];

@Module({
  imports: [TypeOrmModule.forFeature([Dataset, Revision, LastValue]), PlanningModule, SourcesModule],
  controllers: [DatasetsController, LastValuesController],
  providers: [...SHARED, HeldDataset, HeldEvenDeleted, HeldForGood, EditingService],
  exports: [...SHARED, HeldDataset],
})
export class DatasetsModule {}
