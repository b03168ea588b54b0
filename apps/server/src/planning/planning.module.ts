import { Module } from '@nestjs/common';
import { InUse } from '../health/in-use';
import { Planner } from './planner.service';

@Module({ providers: [Planner], exports: [Planner] })
export class PlanningModule {
  constructor(planner: Planner, inUse: InUse) {
    inUse.add({
      name: 'planning',
      unit: 'threads',
      says: 'threads that plan large datasets',
      most: 'planningThreads',
      now: () => planner.busy,
    });
  }
}
