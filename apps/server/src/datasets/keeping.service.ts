import type { OnApplicationBootstrap, OnApplicationShutdown } from '@nestjs/common';
import { Injectable, Logger } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { IsNull, LessThan, Not, Repository } from 'typeorm';
import { EventsService } from '../events/events.service';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { notFound, refused } from '../problems';
import { Dataset } from './dataset.entity';
import { DatasetsService } from './datasets.service';

const HOUR = 3_600_000;

/** Whole datasets: copied, deleted, taken back, and at last removed. */
@Injectable()
export class KeepingService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly log = new Logger('datasets');
  private removing: NodeJS.Timeout | undefined;

  constructor(
    @InjectRepository(Dataset) private readonly datasets: Repository<Dataset>,
    private readonly service: DatasetsService,
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

  /** A dataset of its own that begins as another one is now; its history begins with it. */
  async duplicate(person: Person, id: string): Promise<Dataset> {
    const { definition, revision } = await this.service.definition(id);
    await this.requireSources(person, id);
    const title = `Copy of ${definition.title}`.slice(0, 200);
    return this.service.begin(person, { ...definition, title }, `began as a copy of ${definition.title}, revision ${revision}`);
  }

  async delete(person: Person, id: string): Promise<Dataset> {
    const { dataset } = await this.service.open(id);
    await this.requireSources(person, id);
    await this.datasets.update({ id, deletedAt: IsNull() }, { deletedAt: new Date() });
    this.events.tell({ kind: 'dataset', body: { id, revision: dataset.revision, editId: '' } });
    return dataset;
  }

  /** Takes a deleted dataset back as it was. */
  async takeBack(person: Person, id: string): Promise<Dataset> {
    const dataset = await this.datasets.findOneBy({ id });
    if (!dataset) throw notFound('dataset');
    await this.requireSources(person, id);
    await this.datasets.update({ id, deletedAt: Not(IsNull()) }, { deletedAt: null });
    return { ...dataset, deletedAt: null };
  }

  /** A definition that cannot be read names no source; then only its list entry is at stake. */
  private async requireSources(person: Person, id: string): Promise<void> {
    const open = await this.service.definition(id, undefined, true).catch(() => undefined);
    if (!open || (await this.service.mayUse(person, open.definition))) return;
    throw refused(403, 'source-missing', 'You lack a source this dataset reads.', {}, 'a steward who gives you the source');
  }

  private async removeOld(): Promise<void> {
    await this.datasets.delete({ deletedAt: LessThan(new Date(Date.now() - LIMITS.deletedKept.value * HOUR)) });
  }
}
