import { Module } from '@nestjs/common';
import { DatasetsModule } from '../datasets/datasets.module';
import { PlanningModule } from '../planning';
import { RunsModule } from '../runs/runs.module';
import { InUse } from '../health/in-use';
import { ProofController } from './proof.controller';
import { LayoutReading } from './layout-reading.service';
import { ProofService } from './proof.service';
import { ResultRows } from './result-rows.service';

@Module({
  imports: [DatasetsModule, PlanningModule, RunsModule],
  controllers: [ProofController],
  providers: [ProofService, ResultRows, LayoutReading],
  exports: [ProofService],
})
export class ProofModule {
  constructor(proofs: ProofService, inUse: InUse) {
    inUse.add({ name: 'proofs', unit: 'runs', says: 'proofs being made', most: 'proofsAtOnce', now: () => proofs.atWork });
  }
}
