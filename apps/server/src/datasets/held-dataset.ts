import { Injectable } from '@nestjs/common';
import type { Definition } from '@cendra/core';
import { sourcesOf } from '@cendra/core';
import type { Holding, Person, PersonRequest } from '../people';
import { notFound, refused } from '../problems';
import type { HeldSources } from '../sources';
import { SourcesService } from '../sources';
import type { ReadDataset } from './revisions.service';
import { RevisionsService } from './revisions.service';

/** A dataset whose sources the person holds, all that still exist of them at hand. */
export interface HeldDatasetOf extends ReadDataset {
  readonly sources: HeldSources['sources'];
}

/** The datasets a person may see with their values and rows. The one place where that is decided. */
@Injectable()
export class DatasetRights {
  constructor(
    private readonly revisions: RevisionsService,
    private readonly sources: SourcesService,
  ) {}

  /** Refused where a source is not held, and where the definition cannot be read, so that nobody knows its sources. */
  async hold(person: Person, id: string, revision?: number, evenDeleted = false): Promise<HeldDatasetOf> {
    const read = await this.revisions.read(id, revision, evenDeleted);
    return { ...read, sources: await this.require(person, read.definition) };
  }

  /** The definition's sources that exist; refused where the person lacks one. */
  async require(person: Person, definition: Definition): Promise<HeldSources['sources']> {
    const held = await this.sources.held(person, sourcesOf(definition));
    if (held.all) return held.sources;
    throw sourceMissing('You lack a source this dataset reads.');
  }

  async holds(person: Person, definition: Definition): Promise<boolean> {
    return (await this.sources.held(person, sourcesOf(definition))).all;
  }
}

/** The dataset a route is about, by its id in the path or the body, at the revision asked for or the newest. */
@Injectable()
export class HeldDataset implements Holding<HeldDatasetOf> {
  constructor(private readonly rights: DatasetRights) {}

  find(person: Person, request: PersonRequest): Promise<HeldDatasetOf> {
    const { id, revision } = namedIn(request);
    return this.rights.hold(person, id, revision);
  }
}

/** The same, where the person holds every source that any of its revisions was about, as far as these still exist. */
@Injectable()
export class HeldForGood implements Holding<HeldDatasetOf> {
  constructor(
    private readonly rights: DatasetRights,
    private readonly revisions: RevisionsService,
    private readonly sources: SourcesService,
  ) {}

  async find(person: Person, request: PersonRequest): Promise<HeldDatasetOf> {
    const held = await this.rights.hold(person, namedIn(request).id);
    const about = await this.revisions.sourcesEver(held.dataset.id);
    if ((await this.sources.held(person, about)).allThereAre) return held;
    throw sourceMissing('You lack a source this dataset read earlier.');
  }
}

/** The same, deleted or not, for who decides what becomes of it. */
@Injectable()
export class HeldEvenDeleted implements Holding<HeldDatasetOf> {
  constructor(private readonly rights: DatasetRights) {}

  find(person: Person, request: PersonRequest): Promise<HeldDatasetOf> {
    return this.rights.hold(person, namedIn(request).id, undefined, true);
  }
}

const sourceMissing = (message: string) => refused(403, 'source-missing', message, {}, 'a steward who gives you the source');

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

/** A body that names no dataset is refused here; what else is wrong with it is told by the route. */
function namedIn(request: PersonRequest): { readonly id: string; readonly revision: number | undefined } {
  const body = (request.body ?? {}) as { readonly dataset?: unknown; readonly revision?: unknown };
  const named = 'dataset' in body ? body : { dataset: request.params.id, revision: undefined };
  const { dataset, revision } = named;
  if (typeof dataset !== 'string' || !UUID.test(dataset)) throw notFound('dataset');
  return { id: dataset, revision: typeof revision === 'number' && Number.isInteger(revision) ? revision : undefined };
}
