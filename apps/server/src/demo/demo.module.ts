import { Module } from '@nestjs/common';
import { DatasetsModule } from '../datasets/datasets.module';
import { SourcesModule } from '../sources/sources.module';
import { DemoService } from './demo.service';

@Module({ imports: [DatasetsModule, SourcesModule], providers: [DemoService] })
export class DemoModule {}
