import { createHash, randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { In, Repository } from 'typeorm';
import { Gate } from '../engine';
import { LIMITS } from '../limits';
import type { Dialect } from '@cendra/core';
import type { Person } from '../people';
import { RightsClock } from '../people';
import { checkedAs, notFound, ownDatabaseIsNoSource, refused } from '../problems';
import type { Settings } from '../settings';
import { SETTINGS } from '../settings';
import type {
  CatalogueRoutine,
  Connector,
  DescribedTable,
  DescribedText,
  ScriptToDescribe,
  SignIn,
  SourceScript,
  SourceSnapshot,
  TestAnswer,
} from './connectors/connector';
import { connectorOf, guardOwnDatabase } from './connectors/registry';
import { toldToAll } from './told-to-all';
import { seal, unseal } from './secret-box';
import { SourceGrant } from './source-grant.entity';
import type { RecordedTest } from './source.entity';
import { Source } from './source.entity';
import type { ChangedSourceDto, NewSourceDto, TestSourceDto } from './source.dto';

const DESCRIBED_FOR = 60_000;

/** What a person holds of some sources. */
export interface HeldSources {
  /** They hold every one of them; for somebody but a steward that means each still exists. */
  readonly all: boolean;
  /** They hold those of them that still exist. */
  readonly allThereAre: boolean;
  readonly sources: ReadonlyMap<string, Source>;
}

@Injectable()
export class SourcesService {
  /** What tables looked like, for a minute: the trail is checked against it at every opening. */
  private readonly gate = new Gate();
  private readonly described = new Map<string, { readonly at: number; readonly table: Promise<DescribedTable | undefined> }>();
  private readonly knownRoutines = new Map<string, { readonly at: number; readonly routines: Promise<readonly CatalogueRoutine[]> }>();

  constructor(
    @InjectRepository(Source) private readonly sources: Repository<Source>,
    @InjectRepository(SourceGrant) private readonly grants: Repository<SourceGrant>,
    @Inject(SETTINGS) private readonly settings: Settings,
    private readonly clock: RightsClock,
  ) {
    guardOwnDatabase((text) => this.askOwn(text));
  }

  /** Sources the person may use; a steward sees all. */
  async visibleTo(person: Person): Promise<Source[]> {
    const order = { name: 'ASC' } as const;
    if (person.role === 'steward') return this.sources.find({ order });
    const ids = (await this.grants.findBy({ personId: person.id })).map((each) => each.sourceId);
    return ids.length === 0 ? [] : this.sources.find({ where: { id: In(ids) }, order });
  }

  /** The source, or a refusal that does not tell whether it exists. */
  async forPerson(person: Person, id: string): Promise<Source> {
    const source = (await this.held(person, [id])).sources.get(id);
    if (!source) throw notFound('source');
    return source;
  }

  /**
   * The sources among `ids` that exist and that the person holds at this moment, with their sign-in at hand, in one
   * query. `all` says that none of them exists which the person does not hold. Readers hold none.
   */
  async held(person: Pick<Person, 'id' | 'role'>, ids: readonly string[]): Promise<HeldSources> {
    if (person.role === 'reader') return { all: false, allThereAre: false, sources: new Map() };
    if (ids.length === 0) return { all: true, allThereAre: true, sources: new Map() };
    const key = ['held', person.id, person.role, ...ids.toSorted()].join(' ');
    return this.clock.recall(key, () => this.holding(person, ids));
  }

  private async holding(person: Pick<Person, 'id' | 'role'>, ids: readonly string[]): Promise<HeldSources> {
    const asking = this.sources
      .createQueryBuilder('source')
      .addSelect('source.secret')
      .where({ id: In([...new Set(ids)]) });
    const granted = 'exists (select from source_grant g where g.source_id = source.id and g.person_id = :person)';
    const { entities, raw } = await asking
      .addSelect(granted, 'granted')
      .setParameter('person', person.id)
      .getRawAndEntities<{ granted: boolean }>();
    const holds = entities.filter((_each, at) => person.role === 'steward' || raw[at]?.granted === true);
    return {
      allThereAre: holds.length === entities.length,
      all: holds.length === entities.length && (person.role === 'steward' || holds.length === new Set(ids).size),
      sources: new Map(holds.map((each) => [each.id, each])),
    };
  }

  /** Whether the person may use all of these sources at this moment. */
  async mayUse(person: Pick<Person, 'id' | 'role'>, ids: readonly string[]): Promise<boolean> {
    return (await this.held(person, ids)).all;
  }

  async add(given: NewSourceDto): Promise<Source> {
    const connector = connectorOf(given.kind);
    const settings = settingsOf(connector, given.settings);
    this.refuseOwnDatabase(connector, settings);
    await this.refuseTakenName(given.name, undefined);
    const id = randomUUID();
    const source = this.sources.create({
      id,
      name: given.name,
      mark: given.mark.toUpperCase(),
      kind: connector.kind,
      settings,
      secret: seal(this.settings.secretKey, id, given.secret),
      admitted: [],
      test: null,
    });
    await this.sources.save(source);
    this.clock.moveOn();
    return source;
  }

  /** Changed settings keep the earlier test, which then shows as stale. */
  async change(id: string, given: ChangedSourceDto): Promise<Source> {
    const source = await this.sources.findOneBy({ id });
    if (!source) throw notFound('source');
    const connector = this.connector(source);
    const settings = settingsOf(connector, { ...source.settings, ...given.settings });
    this.refuseOwnDatabase(connector, settings);
    if (given.name !== undefined) await this.refuseTakenName(given.name, id);
    const moved = connector.secretGoesTo(settings) !== connector.secretGoesTo(source.settings);
    if (moved && given.secret === undefined) {
      throw refused(
        422,
        'password-needed',
        'A password is used only where, and in the way, it was given for.',
        { pointer: '/secret' },
        'the password, typed again',
      );
    }
    const secret = given.secret === undefined ? {} : { secret: seal(this.settings.secretKey, id, given.secret) };
    await this.sources.update(id, {
      name: given.name ?? source.name,
      mark: (given.mark ?? source.mark).toUpperCase(),
      settings,
      ...secret,
    });
    this.forget(id);
    return (await this.sources.findOneBy({ id })) ?? source;
  }

  async remove(id: string): Promise<Source> {
    const source = await this.sources.findOneBy({ id });
    if (!source) throw notFound('source');
    await this.sources.delete(id);
    this.forget(id);
    return source;
  }

  async people(id: string): Promise<string[]> {
    return (await this.grants.findBy({ sourceId: id })).map((each) => each.personId);
  }

  async give(id: string, people: readonly string[]): Promise<void> {
    if (!(await this.sources.existsBy({ id }))) throw notFound('source');
    await this.grants.manager.transaction(async (manager) => {
      await manager.delete(SourceGrant, { sourceId: id });
      await manager.insert(
        SourceGrant,
        [...new Set(people)].map((personId) => ({ sourceId: id, personId })),
      );
    });
    this.clock.moveOn();
  }

  /** Tries settings that are not saved. */
  async try(given: TestSourceDto): Promise<TestAnswer> {
    const source = given.source === undefined ? null : await this.sources.findOneBy({ id: given.source });
    const connector = connectorOf(given.kind);
    const settings = settingsOf(connector, given.settings);
    this.refuseOwnDatabase(connector, settings);
    if (given.secret !== undefined) return connector.test(settings, given.secret);
    const same = source?.kind === given.kind && connector.secretGoesTo(source.settings) === connector.secretGoesTo(settings);
    if (!source || !same)
      throw refused(422, 'password-needed', 'These settings need their password.', { pointer: '/secret' }, 'the user’s password');
    return connector.test(settings, await this.secretOf(source));
  }

  /** Tests a saved source and records the answer with the settings it speaks of. */
  async test(source: Source): Promise<Source> {
    const answer = await this.connector(source).test(source.settings, await this.secretOf(source));
    const test: RecordedTest = { answer, at: new Date().toISOString(), settingsHash: this.hashOf(source) };
    await this.sources.update(source.id, { test: test as never });
    this.clock.moveOn();
    return { ...source, test };
  }

  isStale(source: Source): boolean {
    return source.test !== null && source.test.settingsHash !== this.hashOf(source);
  }

  connector(source: Source): Connector {
    return connectorOf(source.kind);
  }

  /** Who reads what there: results are shared only where this is the same. */
  loginOf(source: Source): string {
    return this.connector(source).loginOf(source.settings);
  }

  async tables(source: Source) {
    return this.told(source, (secret) => this.connector(source).tables(source.settings, secret));
  }

  /** A table's description, remembered for a minute. */
  async describe(source: Source, schema: string, table: string, fresh = false): Promise<DescribedTable | undefined> {
    const key = JSON.stringify([source.id, schema, table]);
    const known = this.described.get(key);
    if (known && !fresh && Date.now() - known.at < DESCRIBED_FOR) return known.table;
    const asked = this.told(source, (secret) => this.connector(source).describe(source.settings, secret, schema, table));
    this.described.set(key, { at: Date.now(), table: asked });
    asked.catch(() => this.described.delete(key));
    return asked;
  }

  /** Fields and types of a statement that is not run. */
  async describeText(source: Source, text: string, types: readonly (string | undefined)[]): Promise<DescribedText> {
    return this.told(source, (secret) => this.connector(source).describeText(source.settings, secret, text, types, source.admitted));
  }

  /** Fields and types of a script, of which nothing runs but making its temp tables without rows. */
  async describeScript(source: Source, script: readonly ScriptToDescribe[]): Promise<DescribedText> {
    return this.told(source, (secret) => this.connector(source).describeScript(source.settings, secret, script, source.admitted));
  }

  /** Makes a function there by another sign-in than the one that reads. */
  async keepRoutine(source: Source, as: SignIn, replaced: string | undefined, statement: string): Promise<void> {
    await this.connector(source).keepRoutine(source.settings, as, replaced, statement);
    this.forget(source.id);
  }

  /** Where a password for a user of the source would be sent. */
  secretGoesTo(source: Source, user: string): string {
    return this.connector(source).secretGoesTo({ ...source.settings, user });
  }

  dialectOf(source: Source): Dialect {
    return this.connector(source).dialect;
  }

  /** A session for a script. */
  async openScript(source: Source, signal?: AbortSignal): Promise<SourceScript> {
    return this.told(source, (secret) => this.connector(source).openScript(source.settings, secret, signal, source.admitted));
  }

  /** The routines of a source, remembered for a minute. */
  async routines(source: Source, fresh = false): Promise<readonly CatalogueRoutine[]> {
    const known = this.knownRoutines.get(source.id);
    if (known && !fresh && Date.now() - known.at < DESCRIBED_FOR) return known.routines;
    const asked = this.told(source, (secret) => this.connector(source).routines(source.settings, secret));
    this.knownRoutines.set(source.id, { at: Date.now(), routines: asked });
    asked.catch(() => this.knownRoutines.delete(source.id));
    return asked;
  }

  async routineText(source: Source, signature: string) {
    return this.told(source, (secret) => this.connector(source).routineText(source.settings, secret, signature));
  }

  async viewText(source: Source, schema: string, view: string) {
    return this.told(source, (secret) => this.connector(source).viewText(source.settings, secret, schema, view));
  }

  /** Lets routines run although they are declared as such that may write: still in transactions that are taken back. */
  async admit(source: Source, admitted: readonly string[]): Promise<Source> {
    await this.sources.update(source.id, { admitted: admitted as never });
    this.forget(source.id);
    return { ...source, admitted };
  }

  async open(source: Source, signal?: AbortSignal): Promise<SourceSnapshot> {
    return this.told(source, (secret) => this.connector(source).open(source.settings, secret, signal, source.admitted));
  }

  /**
   * A place at a source for something small that a person asks of it: so many at once of each person and of each source;
   * others wait, and leave when nobody waits for them any more.
   */
  enter(person: Pick<Person, 'id'>, sources: readonly string[], signal: AbortSignal): Promise<() => void> {
    return this.gate.enter(
      new Map([
        [`person ${person.id}`, LIMITS.answersPerPerson.value],
        ...sources.map((id) => [`source ${id}`, LIMITS.answersPerSource.value] as const),
      ]),
      signal,
    );
  }

  /** Asks a source something for a person, in their turn; who has gone no longer waits for it. */
  async inTurn<T>(person: Pick<Person, 'id'>, { id }: Pick<Source, 'id'>, gone: AbortSignal, ask: () => Promise<T>): Promise<T> {
    const leave = await this.enter(person, [id], gone);
    try {
      return await ask();
    } finally {
      leave();
    }
  }

  /** Questions that sources are answering, and those that wait for their turn. */
  get asked(): { readonly answering: number; readonly waiting: number } {
    return { answering: this.gate.held, waiting: this.gate.queued };
  }

  private async told<T>(source: Source, ask: (secret: string) => Promise<T>): Promise<T> {
    const secret = await this.secretOf(source);
    return ask(secret).catch((error: unknown) => {
      throw toldToAll(source.name, error);
    });
  }

  private forget(id: string): void {
    this.clock.moveOn();
    for (const key of this.described.keys()) if (key.includes(id)) this.described.delete(key);
    this.knownRoutines.delete(id);
  }

  /** A source that was found for a person has it at hand; another one is read again. */
  private async secretOf(source: Pick<Source, 'id'> & Partial<Pick<Source, 'secret'>>): Promise<string> {
    const { id } = source;
    const sealed = source.secret ?? (await this.sources.findOne({ where: { id }, select: { id: true, secret: true } }))?.secret;
    if (!sealed) throw notFound('source');
    return unseal(this.settings.secretKey, id, sealed);
  }

  private async refuseTakenName(name: string, own: string | undefined): Promise<void> {
    const other = await this.sources.findOneBy({ name });
    if (other && other.id !== own)
      throw refused(409, 'name-taken', `There is a source named ${name} already.`, { pointer: '/name' }, 'another name');
  }

  private async askOwn(text: string): Promise<string | undefined> {
    const [row] = await this.sources.query<Record<string, string>[]>(text);
    return Object.values(row ?? {})[0];
  }

  /** Cendra's own database is no source. This is told early, by what was typed; what counts is what every connection finds. */
  private refuseOwnDatabase(connector: Connector, settings: object): void {
    if (!connector.isAt(settings, this.settings.database)) return;
    throw ownDatabaseIsNoSource();
  }

  private hashOf(source: Source): string {
    return createHash('sha256')
      .update(JSON.stringify(Object.entries(source.settings).toSorted(([a], [b]) => (a < b ? -1 : 1))))
      .digest('hex');
  }
}

/** Settings of a kind, or a refusal that says which of them is wrong. */
const settingsOf = (connector: Connector, given: object) => ({ ...checkedAs(connector.settings, given, '/settings') });
