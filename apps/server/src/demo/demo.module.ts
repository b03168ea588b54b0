import { Module } from '@nestjs/common';
import { DatasetsModule } from '../datasets/datasets.module';
import { KeptRoutinesModule } from '../kept-routines/kept-routines.module';
import { KeptTextsModule } from '../kept-texts/kept-texts.module';
import { LinksModule } from '../links';
import { SourcesModule } from '../sources/sources.module';
import { DemoService } from './demo.service';

@Module({ imports: [DatasetsModule, KeptRoutinesModule, KeptTextsModule, LinksModule, SourcesModule], providers: [DemoService] })
export class DemoModule {}
