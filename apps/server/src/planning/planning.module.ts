import { Module } from '@nestjs/common';
import { Planner } from './planner.service';

@Module({ providers: [Planner], exports: [Planner] })
export class PlanningModule {}
