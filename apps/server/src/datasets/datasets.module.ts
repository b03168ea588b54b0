import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { SourcesModule } from '../sources/sources.module';
import { Dataset } from './dataset.entity';
import { DatasetsController } from './datasets.controller';
import { DatasetsService } from './datasets.service';
import { Revision } from './revision.entity';

@Module({
  imports: [TypeOrmModule.forFeature([Dataset, Revision]), SourcesModule],
  controllers: [DatasetsController],
  providers: [DatasetsService],
  exports: [DatasetsService],
})
export class DatasetsModule {}
