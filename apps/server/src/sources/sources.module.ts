import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { InUse } from '../health/in-use';
import { HeldSource } from './held-source';
import { SourceGrant } from './source-grant.entity';
import { Source } from './source.entity';
import { RoutinesController } from './routines.controller';
import { RoutinesService } from './routines.service';
import { SourcesController } from './sources.controller';
import { TextsController } from './texts.controller';
import { TextsService } from './texts.service';
import { SourcesService } from './sources.service';

@Module({
  imports: [TypeOrmModule.forFeature([Source, SourceGrant])],
  controllers: [SourcesController, TextsController, RoutinesController],
  providers: [SourcesService, TextsService, RoutinesService, HeldSource],
  exports: [SourcesService, TextsService, RoutinesService],
})
export class SourcesModule {
  constructor(sources: SourcesService, inUse: InUse) {
    inUse.add(
      { name: 'questions', unit: 'questions', says: 'questions that sources are answering', now: () => sources.asked.answering },
      { name: 'questionsWaiting', unit: 'questions', says: 'questions that wait for their turn', now: () => sources.asked.waiting },
    );
  }
}
