import type { OnApplicationBootstrap, OnApplicationShutdown } from '@nestjs/common';
import { Injectable, Logger } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { IsNull, LessThan, Not, Repository } from 'typeorm';
import type { CallResult, Definition, DescribedRoutine, Problem, TriedArgument } from '@cendra/core';
import {
  beginning,
  callStep,
  datasetName,
  emptyDefinition,
  LONGEST_TITLE,
  sourcesOf,
  sqlStep,
  scriptStep,
  sqlText,
  tableStep,
  withFreshIds,
} from '@cendra/core';
import { EventsService } from '../events/events.service';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { notFound, ProblemException } from '../problems';
import type { Source } from '../sources';
import type { RoutineResultDto } from '../sources';
import { RoutinesService, SourcesService } from '../sources';
import type { NewDatasetDto } from './dataset.dto';
import { Dataset } from './dataset.entity';
import { shownOf } from './editing.service';
import type { HeldDatasetOf } from './held-dataset';
import type { InTurn } from './known-tables.service';
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
    private readonly routines: RoutinesService,
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
  async create(person: Person, given: NewDatasetDto, inTurn: InTurn): Promise<Dataset> {
    const source = await this.sources.forPerson(person, given.source);
    if (given.text !== undefined) {
      const own = sqlText(given.text, []);
      const text = given.script === true ? scriptStep(mintId, source.id, own) : sqlStep(mintId, source.id, own, given.kept);
      return this.begin(person, { ...emptyDefinition(given.title ?? ''), steps: [text], result: text.id });
    }
    const { calls } = given;
    if (calls) return this.begin(person, await inTurn(source, () => this.calling(source, calls, given.title ?? '')));
    const described = await inTurn(source, () => this.sources.describe(source, given.schema, given.table, true));
    if (!described) throw notFound('table');
    const step = tableStep(mintId, source.id, described);
    return this.begin(person, { ...emptyDefinition(given.title ?? ''), steps: [step], result: step.id });
  }

  /** The rows of a function, with a parameter for each of its arguments. One that cannot be called is refused with why. */
  private async calling(source: Source, asked: RoutineResultDto, title: string): Promise<Definition> {
    const { columns, result, given } = asked;
    const described = await this.routines.describe(source, asked);
    if (described.problems.length > 0) throw new ProblemException(422, described.problems as readonly Problem[]);
    const begun = emptyDefinition(title);
    const { step, parameters } = callStep(begun, mintId, source.id, described as unknown as DescribedRoutine, {
      result: result as CallResult | undefined,
      given: (given ?? []) as readonly TriedArgument[],
    });
    const said = columns === undefined ? step : { ...step, columns };
    return { ...begun, steps: [said], result: step.id, parameters };
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
