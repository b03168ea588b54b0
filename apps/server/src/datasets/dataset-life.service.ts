import type { OnApplicationBootstrap, OnApplicationShutdown } from '@nestjs/common';
import { Injectable, Logger } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { IsNull, LessThan, Not, Repository } from 'typeorm';
import type { Definition } from '@cendra/core';
import { beginning, datasetName, emptyDefinition, LONGEST_TITLE, sourcesOf, sqlStep, sqlText, tableStep, withFreshIds } from '@cendra/core';
import { EventsService } from '../events/events.service';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { notFound } from '../problems';
import { SourcesService } from '../sources';
import type { NewDatasetDto } from './dataset.dto';
import { Dataset } from './dataset.entity';
import { shownOf } from './editing.service';
import type { HeldDatasetOf } from './held-dataset';
import { Revision } from './revision.entity';
import { mintId } from './mint-id';

const HOUR = 3_600_000;

/** The life of whole datasets: begun, copied, deleted, taken back, and at last removed. */
@Injectable()
export class DatasetLifeService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly log = new Logger('datasets');
  private removing: NodeJS.Timeout | undefined;

  constructor(
    @InjectRepository(Dataset) private readonly datasets: Repository<Dataset>,
    private readonly sources: SourcesService,
    private readonly events: EventsService,
  ) {}

  onApplicationBootstrap(): void {
    const remove = () => void this.removeOld().catch((error: unknown) => this.log.error(String(error)));
    remove();
    this.removing = setInterval(remove, HOUR);
  }

  onApplicationShutdown(): void {
    clearInterval(this.removing);
  }

  /** Begins a dataset with a table step, none of whose fields is taken, or with a text, whose source is asked about it when it is looked at. */
  async create(person: Person, given: NewDatasetDto): Promise<Dataset> {
    const source = await this.sources.forPerson(person, given.source);
    if (given.text !== undefined) {
      const text = sqlStep(mintId, source.id, sqlText(given.text, []), given.kept);
      return this.begin(person, { ...emptyDefinition(given.title ?? ''), steps: [text], result: text.id });
    }
    const described = await this.sources.describe(source, given.schema, given.table, true);
    if (!described) throw notFound('table');
    const step = tableStep(mintId, source.id, described);
    return this.begin(person, { ...emptyDefinition(given.title ?? ''), steps: [step], result: step.id });
  }

  /** Stores a whole definition as the first revision; for demo datasets and creation. */
  async begin(person: Person, definition: Definition, sentence = 'began the dataset'): Promise<Dataset> {
    return this.datasets.manager.transaction(async (manager) => {
      const dataset = await manager.save(
        Dataset,
        manager.create(Dataset, {
          ...shownOf(definition, datasetName(definition)),
          revision: 1,
          createdBy: person.id,
          changedAt: new Date(),
          deletedAt: null,
        }),
      );
      const first = { datasetId: dataset.id, number: 1, editId: `begin-${dataset.id}`, edits: [], sentence };
      const seal = { sources: sourcesOf(definition), personId: person.id, madeAt: new Date() };
      await manager.insert(Revision, { ...first, ...seal, document: definition } as never);
      return dataset;
    });
  }

  /** A dataset of its own that begins as another one is now; its history begins with it, and so do its ids. */
  async duplicate(person: Person, { dataset, definition, revision }: HeldDatasetOf): Promise<Dataset> {
    const title = beginning(`Copy of ${dataset.title}`, LONGEST_TITLE);
    const copy = { ...withFreshIds(definition, mintId), title };
    return this.begin(person, copy, `began as a copy of ${dataset.title}, revision ${revision}`);
  }

  async delete({ dataset }: HeldDatasetOf): Promise<Dataset> {
    const { id, revision } = dataset;
    await this.datasets.update({ id, deletedAt: IsNull() }, { deletedAt: new Date() });
    this.events.tell({ kind: 'dataset', body: { id, revision, editId: '' } });
    return dataset;
  }

  /** Takes a deleted dataset back as it was. */
  async takeBack({ dataset }: HeldDatasetOf): Promise<Dataset> {
    await this.datasets.update({ id: dataset.id, deletedAt: Not(IsNull()) }, { deletedAt: null });
    return { ...dataset, deletedAt: null };
  }

  private async removeOld(): Promise<void> {
    await this.datasets.delete({ deletedAt: LessThan(new Date(Date.now() - LIMITS.deletedKept.value * HOUR)) });
  }
}
