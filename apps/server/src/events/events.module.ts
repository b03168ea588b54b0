import { Global, Module } from '@nestjs/common';
import { SourcesModule } from '../sources/sources.module';
import { EventsController } from './events.controller';
import { EventsService } from './events.service';

@Global()
@Module({ imports: [SourcesModule], controllers: [EventsController], providers: [EventsService], exports: [EventsService] })
export class EventsModule {}
