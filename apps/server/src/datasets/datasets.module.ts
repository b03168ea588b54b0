import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { SourcesModule } from '../sources/sources.module';
import { Dataset } from './dataset.entity';
import { DatasetsController } from './datasets.controller';
import { DatasetsService } from './datasets.service';
import { LastValue } from './last-value.entity';
import { LastValuesController } from './last-values.controller';
import { KeepingService } from './keeping.service';
import { Revision } from './revision.entity';
import { SheetService } from './sheet.service';

@Module({
  imports: [TypeOrmModule.forFeature([Dataset, Revision, LastValue]), SourcesModule],
  controllers: [DatasetsController, LastValuesController],
  providers: [DatasetsService, KeepingService, SheetService],
  exports: [DatasetsService, SheetService],
})
export class DatasetsModule {}
