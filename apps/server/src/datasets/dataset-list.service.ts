import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { In, IsNull, LessThan, Not, Repository } from 'typeorm';
import { Person } from '../people';
import { SourcesService } from '../sources';
import { Dataset } from './dataset.entity';
import { Revision } from './revision.entity';

const LISTED = 500;
const HISTORY_PAGE = 100;

/** The lists of datasets and of what was done to one. */
@Injectable()
export class DatasetListService {
  constructor(
    @InjectRepository(Dataset) private readonly datasets: Repository<Dataset>,
    @InjectRepository(Revision) private readonly revisions: Repository<Revision>,
    private readonly sources: SourcesService,
  ) {}

  /** Those that are there, or those that were deleted and can still be taken back; in one query, as this is what is asked most. */
  async list(deleted = false): Promise<readonly { readonly dataset: Dataset; readonly changedBy: string }[]> {
    const { entities, raw } = await this.datasets
      .createQueryBuilder('dataset')
      .leftJoin(Revision, 'last', 'last.dataset_id = dataset.id and last.number = dataset.revision')
      .leftJoin(Person, 'person', 'person.id = last.person_id')
      .addSelect('person.shown_name', 'changed_by')
      .where({ deletedAt: deleted ? Not(IsNull()) : IsNull() })
      .orderBy('dataset.changed_at', 'DESC')
      .limit(LISTED)
      .getRawAndEntities<{ changed_by: string | null }>();
    return entities.map((dataset, at) => ({ dataset, changedBy: raw[at]?.changed_by ?? '' }));
  }

  /** The newest revisions before one, in words; without them where the person lacks a source these were about. */
  async history(person: Person, id: string, before: number | undefined) {
    const rows = await this.revisions.find({
      where: before === undefined ? { datasetId: id } : { datasetId: id, number: LessThan(before) },
      order: { number: 'DESC' },
      take: HISTORY_PAGE,
      select: { number: true, sentence: true, sources: true, madeAt: true, personId: true },
    });
    const names = await this.names(rows.map((each) => each.personId));
    return Promise.all(
      rows.map(async ({ number, sentence, sources, madeAt, personId }) => {
        const withheld = !(await this.sources.mayUse(person, sources));
        return {
          number,
          sentence: withheld ? '' : sentence,
          withheld,
          madeAt: madeAt.toISOString(),
          person: names.get(personId ?? '') ?? '',
          own: personId === person.id,
        };
      }),
    );
  }

  private async names(ids: readonly (string | null)[]): Promise<ReadonlyMap<string, string>> {
    const wanted = [...new Set(ids.filter((each): each is string => each !== null))];
    const people = wanted.length === 0 ? [] : await this.datasets.manager.findBy(Person, { id: In(wanted) });
    return new Map(people.map(({ id, shownName }) => [id, shownName]));
  }
}
