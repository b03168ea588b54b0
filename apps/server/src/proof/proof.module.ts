import { Module } from '@nestjs/common';
import { DatasetsModule } from '../datasets/datasets.module';
import { PlanningModule } from '../planning';
import { RunsModule } from '../runs/runs.module';
import { ProofController } from './proof.controller';
import { ProofService } from './proof.service';

@Module({ imports: [DatasetsModule, PlanningModule, RunsModule], controllers: [ProofController], providers: [ProofService] })
export class ProofModule {}
