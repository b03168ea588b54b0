import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { In, Repository } from 'typeorm';
import { likeness, sketchOf } from '@cendra/core';
import { LIMITS } from '../limits';
import { Person } from '../people';
import { refused } from '../problems';
import { SourcesService } from '../sources';
import { KeptText, KeptTextVersion } from './kept-text.entity';
import type { AlikeTextDto, ChangedKeptTextDto, KeptTextDto, KeptTextLineDto, KeptTextUseDto, NewKeptTextDto } from './kept-text.dto';

/** Characters of versions that are given with a text, the newest first; older ones stay kept. */
const VERSIONS_GIVEN = 1_000_000;

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

const VERSIONS = `
  select number, text, made_at, made_by from (
    select *, sum(length(text)) over (order by number desc) as so_far from kept_text_version where text_id = $1
  ) v where so_far <= $2 or number = $3 order by number desc`;

/** Every sought word stands in name or note, or, for who may see them, in tags or the text itself. */
const HAS_ALL_WORDS = `not exists (
  select from unnest(:words::text[]) as word
  where position(word in lower(kept.name || ' ' || kept.note)) = 0
    and not (kept.source_id = any(:seen) and position(word in lower(kept.tags::text || ' ' || newest.text)) > 0))`;

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
    const visible = (await this.sources.visibleTo(person)).map((each) => each.id);
    // A steward holds every source, also those that were removed.
    const seen = person.role === 'steward' ? (await this.texts.find({ select: { sourceId: true } })).map((each) => each.sourceId) : visible;
    const words = find.toLowerCase().split(/\s+/);
    const { entities, raw } = await this.texts
      .createQueryBuilder('kept')
      .innerJoin(KeptTextVersion, 'newest', 'newest.text_id = kept.id and newest.number = kept.version')
      .leftJoin(Person, 'person', 'person.id = kept.changed_by')
      .addSelect('person.shown_name', 'changed_name')
      .where(HAS_ALL_WORDS, { words, seen })
      .orderBy('lower(kept.name)')
      .addOrderBy('kept.id')
      .getRawAndEntities<{ changed_name: string | null }>();
    return entities.map(({ id, name, note, sourceId, tags, version, changedAt }, at) => {
      if (!seen.includes(sourceId)) return { id, name, note, withheld: true };
      const told = { source: sourceId, tags, version, changedAt: changedAt.toISOString(), changedBy: raw[at]?.changed_name ?? '' };
      return { id, name, note, withheld: false, ...told };
    });
  }

  async one(text: KeptText): Promise<KeptTextDto> {
    const { id, name, note, sourceId: source, tags, version } = text;
    const kept = await this.texts.manager.query<
      readonly { readonly number: number; readonly text: string; readonly made_at: Date; readonly made_by: string | null }[]
    >(VERSIONS, [id, VERSIONS_GIVEN, version]);
    const people = await this.texts.manager.findBy(Person, { id: In(kept.flatMap((each) => each.made_by ?? [])) });
    const versions = kept.map(({ number, text: words, made_at: madeAt, made_by: madeBy }) => ({
      number,
      text: words,
      madeAt: madeAt.toISOString(),
      madeBy: people.find((each) => each.id === madeBy)?.shownName ?? '',
    }));
    return { id, name, note, source, tags, version, versions, uses: await this.uses(id), alike: await this.alike(text) };
  }

  /** Other texts for the same source that say much the same: which of them is the right one is worth knowing. */
  private async alike({ id, sourceId }: KeptText): Promise<readonly AlikeTextDto[]> {
    const sketches = await this.texts.find({ where: { sourceId }, select: { id: true, name: true, version: true, sketch: true } });
    const own = sketches.find((each) => each.id === id)?.sketch ?? [];
    const alike = sketches
      .flatMap((each) => (each.id === id ? [] : [{ ...each, share: likeness(own, each.sketch) }]))
      .filter((each) => each.share >= ALIKE)
      .sort((a, b) => b.share - a.share)
      .slice(0, MOST_ALIKE);
    return Promise.all(
      alike.map(async ({ id: other, name, version, share }) => {
        const newest = await this.versions.findOneBy({ textId: other, number: version });
        return { id: other, name, text: newest?.text ?? '', share };
      }),
    );
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
      const sketch = [...sketchOf(text)];
      const said = { sourceId: source, name, note, tags, version: 1, sketch, changedAt: new Date(), changedBy: person.id };
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
      return manager.save(KeptText, { ...changed, version: number, sketch: [...sketchOf(text)] });
    });
  }

  async remove({ id }: KeptText): Promise<void> {
    await this.texts.delete({ id });
  }
}
