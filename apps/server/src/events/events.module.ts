import { Global, Module } from '@nestjs/common';
import { InUse } from '../health/in-use';
import { SourcesModule } from '../sources/sources.module';
import { EventsController } from './events.controller';
import { EventsService } from './events.service';

@Global()
@Module({ imports: [SourcesModule], controllers: [EventsController], providers: [EventsService], exports: [EventsService] })
export class EventsModule {
  constructor(events: EventsService, inUse: InUse) {
    inUse.add({ name: 'listeners', unit: 'listeners', says: 'browsers that listen to what happens', now: () => events.listeners });
  }
}
