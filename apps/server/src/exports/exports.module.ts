import { Module } from '@nestjs/common';
import { DatasetsModule } from '../datasets/datasets.module';
import { RunsModule } from '../runs/runs.module';
import { ExportsController } from './exports.controller';
import { WritingService } from './writing.service';

@Module({ imports: [DatasetsModule, RunsModule], controllers: [ExportsController], providers: [WritingService] })
export class ExportsModule {}
