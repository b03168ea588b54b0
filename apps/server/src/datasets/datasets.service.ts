import { randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { In, LessThanOrEqual, Between, Not, IsNull, Repository } from 'typeorm';
import type { EntityManager } from 'typeorm';
import type { Catalogue, Definition, Edit, Step } from '@cendra/core';
import { applyEdits, editSentence, editShape, emptyDefinition, ProblemError, readDefinition, recogniseRole, sourcesOf } from '@cendra/core';
import { EventsService } from '../events/events.service';
import { LIMITS } from '../limits';
import { Person } from '../people';
import { notFound, ProblemException, refused } from '../problems';
import type { DescribedTable } from '../sources';
import { SourcesService } from '../sources';
import type { EditsDto, KnownTableDto, NewDatasetDto } from './dataset.dto';
import { Dataset } from './dataset.entity';
import { Revision } from './revision.entity';

const SNAPSHOT_EVERY = 50;

export interface OpenDataset {
  readonly dataset: Dataset;
  readonly revision: number;
  /** As stored; it may be broken or of a newer version. */
  readonly document: unknown;
  readonly savedAt: Date;
}

@Injectable()
export class DatasetsService {
  constructor(
    @InjectRepository(Dataset) private readonly datasets: Repository<Dataset>,
    @InjectRepository(Revision) private readonly revisions: Repository<Revision>,
    private readonly sources: SourcesService,
    private readonly events: EventsService,
  ) {}

  /** Those that are there, or those that were deleted and can still be taken back. */
  async list(deleted = false) {
    const datasets = await this.datasets.find({
      where: { deletedAt: deleted ? Not(IsNull()) : IsNull() },
      order: { changedAt: 'DESC' },
      take: 500,
    });
    const last =
      datasets.length === 0
        ? []
        : await this.revisions.find({
            where: datasets.map(({ id, revision }) => ({ datasetId: id, number: revision })),
            select: { datasetId: true, personId: true },
          });
    const names = await this.names(last.map((each) => each.personId));
    return datasets.map((dataset) => ({
      dataset,
      changedBy: names.get(last.find((each) => each.datasetId === dataset.id)?.personId ?? '') ?? '',
    }));
  }

  /** Begins a dataset with a table step; none of its fields is taken. */
  async create(person: Person, given: NewDatasetDto): Promise<Dataset> {
    const source = await this.sources.forPerson(person, given.source);
    const described = await this.sources.describe(source, given.schema, given.table, true);
    if (!described) throw notFound('table');
    const title = given.title ?? `${given.table}, ${new Date().toISOString().slice(0, 10)}`;
    const step = tableStep(source.id, described);
    return this.begin(person, { ...emptyDefinition(title), steps: [step] });
  }

  /** Stores a whole definition as the first revision; for demo datasets and creation. */
  async begin(person: Person, definition: Definition, sentence = 'began the dataset'): Promise<Dataset> {
    return this.datasets.manager.transaction(async (manager) => {
      const dataset = await manager.save(
        Dataset,
        manager.create(Dataset, { ...shownOf(definition), revision: 1, createdBy: person.id, changedAt: new Date(), deletedAt: null }),
      );
      await manager.insert(Revision, {
        datasetId: dataset.id,
        number: 1,
        editId: `begin-${dataset.id}`,
        edits: [] as never,
        sentence,
        snapshot: definition as never,
        personId: person.id,
        madeAt: new Date(),
      });
      return dataset;
    });
  }

  /** A deleted dataset is opened only by who decides whether it comes back. */
  async open(id: string, revision?: number, evenDeleted = false): Promise<OpenDataset> {
    const dataset = await this.datasets.findOneBy({ id });
    if (!dataset) throw notFound('dataset');
    if (dataset.deletedAt && !evenDeleted) throw deleted();
    const at = revision ?? dataset.revision;
    if (at > dataset.revision || at < 1)
      throw refused(404, 'revision-unknown', `This dataset has no revision ${at}.`, {}, `1 to ${dataset.revision}`);
    return { dataset, revision: at, document: await documentAt(this.revisions.manager, id, at), savedAt: dataset.changedAt };
  }

  /** The definition of a revision, or the problems that keep it from being read. */
  async definition(id: string, revision?: number, evenDeleted = false): Promise<OpenDataset & { readonly definition: Definition }> {
    const open = await this.open(id, revision, evenDeleted);
    const read = readDefinition(open.document);
    if ('problems' in read) throw new ProblemException(422, read.problems);
    return { ...open, definition: read.definition };
  }

  /**
   * Applies edits on the newest revision in one transaction. An old base is rebased: every edit names what it
   * expects, so edits that still fit are applied and others are refused with both sides.
   */
  async edit(person: Person, id: string, given: EditsDto): Promise<OpenDataset & { readonly definition: Definition }> {
    const edits = readEdits(given.edits);
    await this.requireSources(person, id, edits);
    const done = await this.datasets.manager.transaction(async (manager) => {
      const dataset = await manager.findOne(Dataset, { where: { id }, lock: { mode: 'pessimistic_write' } });
      if (!dataset) throw notFound('dataset');
      if (dataset.deletedAt) throw deleted();
      const before = await documentAt(manager, id, dataset.revision);
      const repeated = await manager.findOneBy(Revision, { datasetId: id, editId: given.editId });
      if (repeated) return { dataset, definition: readOrRefuse(before), repeated: true };
      if (given.baseRevision > dataset.revision)
        throw refused(409, 'revision-unknown', 'These edits stand on a revision that does not exist.', {}, `at most ${dataset.revision}`);
      const definition = readOrRefuse(before);
      const after = applyEdits(definition, edits);
      const size = Buffer.byteLength(JSON.stringify(after));
      if (size > LIMITS.definitionBytes.value)
        throw refused(413, 'definition-too-large', `The dataset would take ${size} bytes.`, {}, `at most ${LIMITS.definitionBytes.value}`);
      const number = dataset.revision + 1;
      const madeAt = new Date();
      const snapshot = number % SNAPSHOT_EVERY === 0 ? after : null;
      await manager.insert(Revision, {
        datasetId: id,
        number,
        editId: given.editId,
        edits: edits as never,
        sentence: (given.restores === undefined ? '' : `went back to revision ${given.restores}: `) + sentenceOfAll(edits, definition),
        snapshot: snapshot as never,
        personId: person.id,
        madeAt,
      });
      const shown = { ...shownOf(after), revision: number, changedAt: madeAt };
      await manager.update(Dataset, id, shown as never);
      return { dataset: { ...dataset, ...shown }, definition: after, repeated: false };
    });
    const { dataset, definition } = done;
    if (!done.repeated) this.events.tell({ kind: 'dataset', body: { id, revision: dataset.revision, editId: given.editId } });
    return { dataset, revision: dataset.revision, document: definition, definition, savedAt: dataset.changedAt };
  }

  async history(id: string, before: number | undefined) {
    const rows = await this.revisions.find({
      where: before === undefined ? { datasetId: id } : { datasetId: id, number: LessThanOrEqual(before - 1) },
      order: { number: 'DESC' },
      take: 100,
      select: { number: true, sentence: true, madeAt: true, personId: true },
    });
    const names = await this.names(rows.map((each) => each.personId));
    return rows.map((each) => ({ ...each, person: names.get(each.personId ?? '') ?? '' }));
  }

  /** What the sources say now about the tables a dataset reads. A source that does not answer does not keep it from opening. */
  async known(person: Person, definition: Definition, fresh: boolean): Promise<KnownTableDto[]> {
    const steps = definition.steps.flatMap((step) => (step.kind === 'table' ? [step] : []));
    return Promise.all(
      steps.map(async ({ source: id, schema, table }): Promise<KnownTableDto> => {
        try {
          const described = await this.sources.describe(await this.sources.forPerson(person, id), schema, table, fresh);
          return {
            source: id,
            schema,
            table,
            state: described ? 'known' : 'gone',
            columns: described?.columns.map(({ name, sourceType, looseText }) => ({ name, sourceType, looseText })) ?? [],
          };
        } catch (error) {
          if (!(error instanceof ProblemException)) throw error;
          return { source: id, schema, table, state: 'unreachable', columns: [], problem: error.problems[0] };
        }
      }),
    );
  }

  async mayUse(person: Person, definition: Definition): Promise<boolean> {
    return this.sources.mayUse(person, sourcesOf(definition));
  }

  /** Who lacks a source the dataset reads, or is about to read, does not edit it: they would not see what they change. */
  private async requireSources(person: Person, id: string, edits: readonly Edit[]): Promise<void> {
    const { definition } = await this.definition(id);
    const coming = edits.flatMap((edit) =>
      edit.kind === 'add step' && edit.step.kind === 'table'
        ? [edit.step.source]
        : edit.kind === 'set step' && edit.property === 'source'
          ? [String(edit.to)]
          : [],
    );
    if (await this.sources.mayUse(person, [...new Set([...sourcesOf(definition), ...coming])])) return;
    throw refused(
      403,
      'source-missing',
      'You lack a source this dataset reads, so you cannot change it.',
      {},
      'a steward who gives you the source',
    );
  }

  private async names(ids: readonly (string | null)[]): Promise<ReadonlyMap<string, string>> {
    const wanted = [...new Set(ids.filter((each): each is string => each !== null))];
    const people = wanted.length === 0 ? [] : await this.datasets.manager.findBy(Person, { id: In(wanted) });
    return new Map(people.map(({ id, shownName }) => [id, shownName]));
  }
}

/** What the list shows of a dataset, kept beside its definition. */
const shownOf = ({ title, description, tags }: Definition) => ({ title, description, tags });

const deleted = () => refused(410, 'dataset-deleted', 'This dataset was deleted.', {}, 'to take it back from the list of datasets first');

/** The newest snapshot at or before a revision, with the edits since applied again. */
async function documentAt(manager: EntityManager, id: string, number: number): Promise<unknown> {
  const base = await manager.findOne(Revision, {
    where: { datasetId: id, number: LessThanOrEqual(number), snapshot: Not(IsNull()) },
    order: { number: 'DESC' },
  });
  if (!base) throw notFound('dataset');
  if (base.number === number) return base.snapshot;
  const between = { datasetId: id, number: Between(base.number + 1, number) };
  const since = await manager.find(Revision, { where: between, order: { number: 'ASC' } });
  const edits = since.flatMap((each) => each.edits);
  return edits.length === 0 ? base.snapshot : applyEdits(readOrRefuse(base.snapshot), edits);
}

function readOrRefuse(document: unknown): Definition {
  const read = readDefinition(document);
  if ('problems' in read) throw new ProblemError(read.problems);
  return read.definition;
}

function readEdits(given: readonly object[]): readonly Edit[] {
  return given.map((each, index) => {
    const read = editShape.safeParse(each);
    if (read.success) return read.data;
    const [issue] = read.error.issues;
    const pointer = `/edits/${index}${issue?.path.map((part) => `/${String(part)}`).join('') ?? ''}`;
    throw refused(400, 'edit-unreadable', 'One of the edits is not as it should be.', { pointer }, issue?.message);
  });
}

function sentenceOfAll(edits: readonly Edit[], before: Definition): string {
  let current = before;
  const sentences = edits.map((edit) => {
    const sentence = editSentence(edit, current);
    current = applyEdits(current, [edit]);
    return sentence;
  });
  return sentences.join('; ').slice(0, 2_000);
}

export const mintId = () => randomBytes(9).toString('base64url');

export function tableStep(source: string, described: DescribedTable): Step {
  const fields = described.columns.map((column) => ({
    id: mintId(),
    column: column.name,
    sourceType: column.sourceType,
    type: column.type,
    role: recogniseRole(column),
    looseText: column.looseText,
  }));
  return {
    id: mintId(),
    kind: 'table',
    name: '',
    off: false,
    inputs: [],
    source,
    schema: described.schema,
    table: described.name,
    fields,
    taken: [],
  };
}

/** The known tables as core's checks ask for them. */
export function catalogueOf(known: readonly KnownTableDto[]): Catalogue {
  return (source, schema, table) => {
    const found = known.find((each) => each.source === source && each.schema === schema && each.table === table);
    if (!found || found.state === 'unreachable') return undefined;
    return found.state === 'gone' ? 'gone' : found.columns;
  };
}
