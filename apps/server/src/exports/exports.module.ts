import { Module } from '@nestjs/common';
import { RunsModule } from '../runs/runs.module';
import { ExportsController } from './exports.controller';

@Module({ imports: [RunsModule], controllers: [ExportsController] })
export class ExportsModule {}
