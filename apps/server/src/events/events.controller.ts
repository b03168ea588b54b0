import { Controller, Get, Req, Res } from '@nestjs/common';
import { ApiExcludeController } from '@nestjs/swagger';
import type { Response } from 'express';
import type { PersonRequest } from '../people';
import { Access, NeedsNoSource, Person, SESSION_COOKIE, SignedInPerson } from '../people';
import { SignInService } from '../people/sign-in.service';
import { SourcesService } from '../sources';
import { EventsService } from './events.service';
import { Listener } from './listener';

const KEEP_ALIVE = 20_000;

/** One stream per browser: the leading tab holds it and passes events on to the others. */
@ApiExcludeController()
@Controller('events')
@NeedsNoSource()
@Access('analyst', 'steward', 'reader')
export class EventsController {
  constructor(
    private readonly events: EventsService,
    private readonly sources: SourcesService,
    private readonly signIns: SignInService,
  ) {}

  @Get()
  stream(@SignedInPerson() person: Person, @Req() request: PersonRequest, @Res() response: Response): void {
    response.status(200).set({ 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' });
    response.flushHeaders();
    response.write(': hello\n\n');
    const token = (request.cookies as Record<string, string>)[SESSION_COOKIE];
    const listener = new Listener(response, ({ body }) => this.mayKnow(person, token, body));
    const listening = this.events.for(person.id).subscribe((event) => listener.hear(event));
    const alive = setInterval(() => listener.keepAlive(), KEEP_ALIVE);
    request.on('close', () => {
      clearInterval(alive);
      listening.unsubscribe();
    });
  }

  /** Asked for every event: the session may have ended, or a source been taken away, since the stream began. */
  private async mayKnow(person: Person, token: string | undefined, body: Readonly<Record<string, unknown>>): Promise<boolean> {
    const sources = Array.isArray(body.sources) ? (body.sources as string[]) : [];
    const [found, may] = await Promise.all([this.signIns.whoIs(token), this.sources.mayUse(person, sources)]);
    return found?.person.role === person.role && found.person.role !== 'reader' && may;
  }
}
