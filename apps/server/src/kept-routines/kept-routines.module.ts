import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { DatasetsModule } from '../datasets/datasets.module';
import { PlanningModule } from '../planning';
import { RunsModule } from '../runs/runs.module';
import { SourcesModule } from '../sources/sources.module';
import { SourceKeeping } from './keeping.entity';
import { KeepingService } from './keeping.service';
import { KeptRoutine } from './kept-routine.entity';
import { KeepingController, KeptRoutinesController } from './kept-routines.controller';
import { KeptRoutinesService } from './kept-routines.service';

@Module({
  imports: [TypeOrmModule.forFeature([SourceKeeping, KeptRoutine]), DatasetsModule, PlanningModule, RunsModule, SourcesModule],
  controllers: [KeepingController, KeptRoutinesController],
  providers: [KeepingService, KeptRoutinesService],
  exports: [KeepingService],
})
export class KeptRoutinesModule {}
