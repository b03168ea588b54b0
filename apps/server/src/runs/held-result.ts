import { Injectable } from '@nestjs/common';
import type { Holding, Person, PersonRequest } from '../people';
import { notFound } from '../problems';
import type { Result } from './result.entity';
import { ResultsService } from './results.service';
import type { Run } from './run.entity';
import { RunRecordsService } from './run-records.service';

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

/** The result a route is about, by its id in the path, under its seal. */
@Injectable()
export class HeldResult implements Holding<Result> {
  constructor(private readonly results: ResultsService) {}

  find(person: Person, { params: { id } }: PersonRequest): Promise<Result> {
    if (typeof id !== 'string' || !UUID.test(id)) throw notFound('result');
    return this.results.forPerson(person, id);
  }
}

/** The person's own run a route is about, by its id in the path. */
@Injectable()
export class HeldRun implements Holding<Run> {
  constructor(private readonly records: RunRecordsService) {}

  find(person: Person, { params: { id } }: PersonRequest): Promise<Run> {
    if (typeof id !== 'string' || !UUID.test(id)) throw notFound('run');
    return this.records.forPerson(person, id);
  }
}
