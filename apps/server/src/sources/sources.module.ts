import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { HeldSource } from './held-source';
import { SourceGrant } from './source-grant.entity';
import { Source } from './source.entity';
import { SourcesController } from './sources.controller';
import { SourcesService } from './sources.service';

@Module({
  imports: [TypeOrmModule.forFeature([Source, SourceGrant])],
  controllers: [SourcesController],
  providers: [SourcesService, HeldSource],
  exports: [SourcesService],
})
export class SourcesModule {}
