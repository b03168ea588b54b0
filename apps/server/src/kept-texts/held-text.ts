import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { Repository } from 'typeorm';
import type { Holding, Person, PersonRequest } from '../people';
import { notFound } from '../problems';
import { SourcesService } from '../sources';
import { KeptText } from './kept-text.entity';

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

/** The kept text a route is about, for who may use the source it is written for. */
@Injectable()
export class HeldText implements Holding<KeptText> {
  constructor(
    @InjectRepository(KeptText) private readonly texts: Repository<KeptText>,
    private readonly sources: SourcesService,
  ) {}

  async find(person: Person, request: PersonRequest): Promise<KeptText> {
    const { id } = request.params;
    const found = typeof id === 'string' && UUID.test(id) ? await this.texts.findOneBy({ id }) : null;
    if (!found) throw notFound('text');
    // A steward holds every source; one that was removed leaves its texts to them.
    if (person.role !== 'steward') await this.sources.forPerson(person, found.sourceId);
    return found;
  }
}
