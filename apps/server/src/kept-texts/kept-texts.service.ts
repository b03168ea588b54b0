import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { In, Repository } from 'typeorm';
import { likeness, runsOfWords } from '@cendra/core';
import { LIMITS } from '../limits';
import { Person } from '../people';
import { refused } from '../problems';
import { SourcesService } from '../sources';
import { KeptText, KeptTextVersion } from './kept-text.entity';
import type { AlikeTextDto, ChangedKeptTextDto, KeptTextDto, KeptTextLineDto, KeptTextUseDto, NewKeptTextDto } from './kept-text.dto';

/** Versions that are given with a text; older ones stay kept. */
const VERSIONS_GIVEN = 50;

/** Texts of which at least this share says the same are told of each other. */
const ALIKE = 0.7;
const MOST_ALIKE = 5;

const USES = `
  select dataset.id, dataset.title, (step->'kept'->>'version')::int as version
  from dataset
  join revision last on last.dataset_id = dataset.id and last.number = dataset.revision
  cross join jsonb_array_elements(last.document->'steps') as step
  where dataset.deleted_at is null and step->'kept'->>'text' = $1
  order by dataset.title, dataset.id limit $2`;

/** A kept text with the words of its newest version. */
interface Worded {
  readonly text: KeptText;
  readonly words: string;
  readonly changedBy: string;
}

/** The shelf: texts that were found good, so that they are found again, and those who took one hear of changes. */
@Injectable()
export class KeptTextsService {
  constructor(
    @InjectRepository(KeptText) private readonly texts: Repository<KeptText>,
    @InjectRepository(KeptTextVersion) private readonly versions: Repository<KeptTextVersion>,
    private readonly sources: SourcesService,
  ) {}

  /** Those in which every sought word stands. Of a text whose source the person lacks only name and note are searched, and told. */
  async list(person: Person, find = ''): Promise<readonly KeptTextLineDto[]> {
    const all = await this.worded();
    const visible = new Set((await this.sources.visibleTo(person)).map((each) => each.id));
    const holds = (source: string) => person.role === 'steward' || visible.has(source);
    const sought = find.toLowerCase().split(/\s+/);
    const found = all.filter(({ text, words }) => {
      const told = [text.name, text.note, ...(holds(text.sourceId) ? [...text.tags, words] : [])].join(' ').toLowerCase();
      return sought.every((each) => told.includes(each));
    });
    return found.map((each) => {
      const { id, name, note, sourceId, tags, version, changedAt } = each.text;
      if (!holds(sourceId)) return { id, name, note, withheld: true };
      const seen = { source: sourceId, tags, version, changedAt: changedAt.toISOString(), changedBy: each.changedBy };
      return { id, name, note, withheld: false, ...seen };
    });
  }

  private async worded(): Promise<readonly Worded[]> {
    const { entities, raw } = await this.texts
      .createQueryBuilder('kept')
      .innerJoin(KeptTextVersion, 'newest', 'newest.text_id = kept.id and newest.number = kept.version')
      .leftJoin(Person, 'person', 'person.id = kept.changed_by')
      .addSelect('newest.text', 'words')
      .addSelect('person.shown_name', 'changed_name')
      .orderBy('lower(kept.name)')
      .addOrderBy('kept.id')
      .getRawAndEntities<{ words: string; changed_name: string | null }>();
    return entities.map((text, at) => ({ text, words: raw[at]?.words ?? '', changedBy: raw[at]?.changed_name ?? '' }));
  }

  async one(text: KeptText): Promise<KeptTextDto> {
    const { id, name, note, sourceId: source, tags, version } = text;
    const kept = await this.versions.find({ where: { textId: id }, order: { number: 'DESC' }, take: VERSIONS_GIVEN });
    const people = await this.texts.manager.findBy(Person, { id: In(kept.flatMap((each) => each.madeBy ?? [])) });
    const versions = kept.map(({ number, text: words, madeAt, madeBy }) => ({
      number,
      text: words,
      madeAt: madeAt.toISOString(),
      madeBy: people.find((each) => each.id === madeBy)?.shownName ?? '',
    }));
    return { id, name, note, source, tags, version, versions, uses: await this.uses(id), alike: await this.alike(text) };
  }

  /** Other texts for the same source that say much the same: which of them is the right one is worth knowing. */
  private async alike({ id, sourceId, version }: KeptText): Promise<readonly AlikeTextDto[]> {
    const all = (await this.worded()).filter(({ text }) => text.sourceId === sourceId);
    const own = all.find(({ text }) => text.id === id && text.version === version);
    if (!own) return [];
    const runs = runsOfWords(own.words);
    return all
      .flatMap(({ text, words }) =>
        text.id === id ? [] : [{ id: text.id, name: text.name, text: words, share: likeness(runs, runsOfWords(words)) }],
      )
      .filter((each) => each.share >= ALIKE)
      .sort((a, b) => b.share - a.share)
      .slice(0, MOST_ALIKE);
  }

  /** The datasets whose newest revision has a step that took it. */
  private uses(id: string): Promise<readonly KeptTextUseDto[]> {
    return this.texts.manager.query<readonly KeptTextUseDto[]>(USES, [id, LIMITS.keptTexts.value]);
  }

  async keep(person: Person, { source, name, note, tags, text }: NewKeptTextDto): Promise<KeptText> {
    await this.sources.forPerson(person, source);
    if ((await this.texts.count()) >= LIMITS.keptTexts.value)
      throw refused(422, 'texts-many', 'The shelf is full.', {}, `at most ${LIMITS.keptTexts.value} texts`);
    return this.texts.manager.transaction(async (manager) => {
      const said = { sourceId: source, name, note, tags, version: 1, changedAt: new Date(), changedBy: person.id };
      const kept = await manager.save(KeptText, manager.create(KeptText, said));
      await manager.insert(KeptTextVersion, { textId: kept.id, number: 1, text, madeAt: kept.changedAt, madeBy: person.id });
      return kept;
    });
  }

  /** A text that says the same words makes no version. */
  async change(person: Person, { id }: KeptText, { text, version, source, ...said }: ChangedKeptTextDto): Promise<KeptText> {
    if (source !== undefined) await this.sources.forPerson(person, source);
    return this.texts.manager.transaction(async (manager) => {
      const kept = await manager.findOneOrFail(KeptText, { where: { id }, lock: { mode: 'pessimistic_write' } });
      const newest = await manager.findOneByOrFail(KeptTextVersion, { textId: id, number: kept.version });
      const pointed = source === undefined ? {} : { sourceId: source };
      const changed = { ...kept, ...said, ...pointed, changedAt: new Date(), changedBy: person.id };
      if (text === undefined || text === newest.text) return manager.save(KeptText, changed);
      if (version !== kept.version) {
        const message = `Somebody made version ${kept.version} of this text meanwhile.`;
        throw refused(409, 'changed-meanwhile', message, {}, 'to look at what changed, and to write on that');
      }
      const number = kept.version + 1;
      await manager.insert(KeptTextVersion, { textId: id, number, text, madeAt: changed.changedAt, madeBy: person.id });
      return manager.save(KeptText, { ...changed, version: number });
    });
  }

  async remove({ id }: KeptText): Promise<void> {
    await this.texts.delete({ id });
  }
}
