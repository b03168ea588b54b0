import { Injectable } from '@nestjs/common';
import type { Holding, Person, PersonRequest } from '../people';
import { notFound } from '../problems';
import type { Source } from './source.entity';
import { SourcesService } from './sources.service';

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

/** The source a route is about, by its id in the path. */
@Injectable()
export class HeldSource implements Holding<Source> {
  constructor(private readonly sources: SourcesService) {}

  find(person: Person, request: PersonRequest): Promise<Source> {
    const { id } = request.params;
    if (typeof id !== 'string' || !UUID.test(id)) throw notFound('source');
    return this.sources.forPerson(person, id);
  }
}
