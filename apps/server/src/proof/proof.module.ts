import { Module } from '@nestjs/common';
import { DatasetsModule } from '../datasets/datasets.module';
import { RunsModule } from '../runs/runs.module';
import { ProofController } from './proof.controller';
import { ProofService } from './proof.service';

@Module({ imports: [DatasetsModule, RunsModule], controllers: [ProofController], providers: [ProofService] })
export class ProofModule {}
