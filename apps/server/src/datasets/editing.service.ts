import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import type { EntityManager } from 'typeorm';
import { Repository } from 'typeorm';
import type { Definition } from '@cendra/core';
import { sourcesOf } from '@cendra/core';
import { EventsService } from '../events/events.service';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { Planner } from '../planning';
import { notFound, refused } from '../problems';
import type { EditsDto } from './dataset.dto';
import { Dataset } from './dataset.entity';
import type { HeldDatasetOf } from './held-dataset';
import { DatasetRights } from './held-dataset';
import { Revision } from './revision.entity';
import type { ReadDataset } from './revisions.service';
import { deletedDataset, RevisionsService } from './revisions.service';

/** What the list shows of a dataset, kept beside its definition. */
export const shownOf = ({ description, tags }: Definition, title: string) => ({ title, description, tags });

/** So often edits are applied again on what others saved meanwhile. */
const TRIES = 20;

/** Edits become revisions here. */
@Injectable()
export class EditingService {
  constructor(
    @InjectRepository(Dataset) private readonly datasets: Repository<Dataset>,
    private readonly revisions: RevisionsService,
    private readonly rights: DatasetRights,
    private readonly events: EventsService,
    private readonly planner: Planner,
  ) {}

  /**
   * Applies edits on the newest revision. An old base is rebased: every edit names what it expects, so edits that still
   * fit are applied and others are refused with both sides. They are applied and put into words before the dataset is
   * locked; whoever finds a newer head there does it again.
   */
  async edit(person: Person, held: HeldDatasetOf, given: EditsDto): Promise<ReadDataset> {
    const { id } = held.dataset;
    let head: ReadDataset = held;
    for (let tries = 0; tries < TRIES; tries++) {
      if (given.baseRevision > head.revision)
        throw refused(409, 'revision-unknown', 'These edits stand on a revision that does not exist.', {}, `at most ${head.revision}`);
      const repeated = await this.datasets.manager.findOne(Revision, {
        where: { datasetId: id, editId: given.editId },
        select: { number: true, personId: true },
      });
      if (repeated && repeated.personId !== person.id)
        throw refused(409, 'edit-id-taken', 'Edits of somebody else have this id.', { pointer: '/editId' }, 'an id of their own');
      if (repeated) return this.revisions.read(id);
      const { after, edits, name, sentence: said } = await this.planner.edit(head.definition, given.edits);
      await this.require(person, head.definition, after);
      const sentence = (given.restores === undefined ? '' : `went back to revision ${given.restores}: `) + said;
      const saved = await this.datasets.manager.transaction((manager) =>
        this.append(manager, person, head, after, name, { editId: given.editId, edits, sentence }),
      );
      if (saved) {
        this.revisions.remember(id, saved.revision, after);
        this.events.tell({ kind: 'dataset', body: { id, revision: saved.revision, editId: given.editId } });
        return saved;
      }
      head = await this.revisions.read(id);
    }
    throw refused(503, 'dataset-busy', 'Too many people save this dataset at the same moment.', {}, 'to try again');
  }

  /** Who lacks a source the dataset is about to read does not bring it in. */
  private async require(person: Person, before: Definition, after: Definition): Promise<void> {
    if (after.steps !== before.steps) await this.rights.require(person, after);
  }

  /** The next revision; undefined where the head is not the one that was edited. */
  private async append(
    manager: EntityManager,
    person: Person,
    head: ReadDataset,
    after: Definition,
    name: string,
    said: Pick<Revision, 'editId' | 'edits' | 'sentence'>,
  ): Promise<ReadDataset | undefined> {
    const { id } = head.dataset;
    const dataset = await manager.findOne(Dataset, { where: { id }, lock: { mode: 'pessimistic_write' } });
    if (!dataset) throw notFound('dataset');
    if (dataset.deletedAt) throw deletedDataset();
    if (dataset.revision !== head.revision) return undefined;
    const size = Buffer.byteLength(JSON.stringify(after));
    if (size > LIMITS.definitionBytes.value)
      throw refused(413, 'definition-too-large', `The dataset would take ${size} bytes.`, {}, `at most ${LIMITS.definitionBytes.value}`);
    const number = dataset.revision + 1;
    const madeAt = new Date();
    const sources = [...new Set([...sourcesOf(head.definition), ...sourcesOf(after)])];
    await manager.insert(Revision, { datasetId: id, number, ...said, document: after, sources, personId: person.id, madeAt } as never);
    const shown = { ...shownOf(after, name), revision: number, changedAt: madeAt };
    await manager.update(Dataset, id, shown as never);
    return { dataset: { ...dataset, ...shown }, revision: number, definition: after, savedAt: madeAt };
  }
}
