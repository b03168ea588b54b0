import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { Repository } from 'typeorm';
import type { Definition, ReadDefinition } from '@cendra/core';
import { LIMITS } from '../limits';
import { Planner } from '../planning';
import { notFound, ProblemException, refused } from '../problems';
import { Dataset } from './dataset.entity';
import { Recent } from '../recent';
import { Revision } from './revision.entity';

export interface OpenDataset {
  readonly dataset: Dataset;
  readonly revision: number;
  readonly savedAt: Date;
}

export interface ReadDataset extends OpenDataset {
  readonly definition: Definition;
}

/** As stored it may be broken or of a newer version. */
export type StoredDataset = OpenDataset & { readonly read: ReadDefinition };

/** Revisions of datasets: read, remembered while they are in use, never changed. */
@Injectable()
export class RevisionsService {
  private readonly recent = new Recent<Definition>(LIMITS.definitionsKept.value);

  constructor(
    @InjectRepository(Dataset) private readonly datasets: Repository<Dataset>,
    @InjectRepository(Revision) private readonly revisions: Repository<Revision>,
    private readonly planner: Planner,
  ) {}

  /** A deleted dataset is opened only by who decides whether it comes back. */
  async open(id: string, revision?: number, evenDeleted = false): Promise<StoredDataset> {
    const { dataset, at } = await this.at(id, revision, evenDeleted);
    const known = this.recent.get(keyOf(id, at));
    const read = known ? { definition: known } : await this.planner.read(await this.document(id, at));
    return { dataset, revision: at, savedAt: dataset.changedAt, read };
  }

  /** The definition of a revision, or the problems that keep it from being read. */
  async read(id: string, revision?: number, evenDeleted = false): Promise<ReadDataset> {
    const { read, ...open } = await this.open(id, revision, evenDeleted);
    if ('problems' in read) throw new ProblemException(422, read.problems);
    if (!this.recent.get(keyOf(id, open.revision))) this.remember(id, open.revision, read.definition);
    return { ...open, definition: read.definition };
  }

  /** The sources that any of its revisions was about. */
  async sourcesEver(id: string): Promise<readonly string[]> {
    const rows: readonly { readonly source: string }[] = await this.revisions.query(
      'select distinct unnest(sources) as source from revision where dataset_id = $1',
      [id],
    );
    return rows.map(({ source }) => source);
  }

  /** Keeps what is known to be a revision's definition, so that it is not read again. */
  remember(id: string, revision: number, definition: Definition): void {
    this.recent.put(keyOf(id, revision), definition, JSON.stringify(definition).length);
  }

  private async at(id: string, revision: number | undefined, evenDeleted: boolean) {
    const dataset = await this.datasets.findOneBy({ id });
    if (!dataset) throw notFound('dataset');
    if (dataset.deletedAt && !evenDeleted) throw deletedDataset();
    const at = revision ?? dataset.revision;
    if (at > dataset.revision || at < 1)
      throw refused(404, 'revision-unknown', `This dataset has no revision ${at}.`, {}, `1 to ${dataset.revision}`);
    return { dataset, at };
  }

  private async document(id: string, number: number): Promise<unknown> {
    const found = await this.revisions.findOne({ where: { datasetId: id, number }, select: { document: true } as never });
    if (!found) throw notFound('revision');
    return found.document;
  }
}

const keyOf = (id: string, revision: number) => `${id}/${revision}`;

export const deletedDataset = () =>
  refused(410, 'dataset-deleted', 'This dataset was deleted.', {}, 'to take it back from the list of datasets first');
