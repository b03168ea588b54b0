import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { SourcesModule } from '../sources/sources.module';
import { Dataset } from './dataset.entity';
import { DatasetsController } from './datasets.controller';
import { DatasetsService } from './datasets.service';
import { LastValue } from './last-value.entity';
import { LastValuesController } from './last-values.controller';
import { Revision } from './revision.entity';

@Module({
  imports: [TypeOrmModule.forFeature([Dataset, Revision, LastValue]), SourcesModule],
  controllers: [DatasetsController, LastValuesController],
  providers: [DatasetsService],
  exports: [DatasetsService],
})
export class DatasetsModule {}
