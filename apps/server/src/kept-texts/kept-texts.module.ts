import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { SourcesModule } from '../sources/sources.module';
import { HeldText } from './held-text';
import { KeptText, KeptTextVersion } from './kept-text.entity';
import { KeptTextsController } from './kept-texts.controller';
import { KeptTextsService } from './kept-texts.service';

@Module({
  imports: [TypeOrmModule.forFeature([KeptText, KeptTextVersion]), SourcesModule],
  controllers: [KeptTextsController],
  providers: [HeldText, KeptTextsService],
  exports: [KeptTextsService],
})
export class KeptTextsModule {}
