import { createHash } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { In, LessThan, Repository } from 'typeorm';
import type { CellText, Found, Profile, SortBy } from '../engine';
import { Engine, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { notFound, refused, whileAway } from '../problems';
import { SourcesService } from '../sources';
import { PAGES_ENGINE } from './engines';
import { FirstPages } from './first-pages';
import { KeptPages } from './kept-pages';
import { Result } from './result.entity';

@Injectable()
export class ResultsService {
  private readonly pages = new KeptPages();
  /** Sorted views being made, so that two readers wait for one. */
  private readonly sorting = new Map<string, Promise<unknown>>();
  /** First rows of runs under way. They live in this process only: nothing of them is left when it ends. */
  private readonly early = new Map<string, Result>();
  /** Results made last: what they are never changes, so it need not be asked again for every page. */
  private readonly recent = new Map<string, Result>();

  constructor(
    @InjectRepository(Result) private readonly results: Repository<Result>,
    private readonly sources: SourcesService,
    private readonly store: ResultStore,
    private readonly firstPages: FirstPages,
    @Inject(PAGES_ENGINE) private readonly engine: Engine,
  ) {}

  /**
   * The result, if the person holds everything it was made from at this moment and every source is still read
   * with the same login. Every read of rows goes through here.
   */
  async forPerson(person: Person, id: string): Promise<Result> {
    const result = this.early.get(id) ?? (await this.byId(id));
    if (!result) throw notFound('result');
    const held = await this.sources.held(
      person,
      result.seal.sources.map((each) => each.id),
    );
    const sealed = result.seal.sources.every(({ id: source, login }) => {
      const found = held.sources.get(source);
      return found !== undefined && this.sources.loginOf(found) === login;
    });
    // Rows that came from no source are nobody's but whose who made them.
    if (!sealed || (result.seal.sources.length === 0 && result.madeBy !== person.id)) throw notFound('result');
    return result;
  }

  /** From now on it can be read; settles when it is written down, and leaves nothing when it cannot be. */
  async keep(result: Result): Promise<void> {
    this.remember(result);
    try {
      await whileAway(() => this.results.insert(result as never));
    } catch (error) {
      this.recent.delete(result.id);
      await this.store.remove(result.id);
      throw error;
    }
  }

  /** Makes the first rows of a run readable while the rest is on its way. */
  keepEarly(result: Result): void {
    this.early.set(result.id, result);
  }

  async dropEarly({ id }: Result): Promise<void> {
    this.early.delete(id);
    await this.store.remove(id);
  }

  /** Clears what an earlier process left behind: files without a result, and results without their file. */
  async sweep(): Promise<void> {
    const known = await this.results.find({ select: { id: true } });
    await this.store.sweep(new Set(known.map((each) => each.id)));
    await this.forgetLost(known);
  }

  /** A result whose rows are gone from the disk is none. */
  private async forgetLost(known: readonly Pick<Result, 'id'>[]): Promise<void> {
    const lost = known.filter(({ id }) => !this.store.has(this.store.rows(id))).map((each) => each.id);
    for (const id of lost) this.recent.delete(id);
    if (lost.length > 0) await this.results.delete(lost);
  }

  async byId(id: string): Promise<Result | null> {
    return this.recent.get(id) ?? this.results.findOneBy({ id });
  }

  private remember(result: Result): void {
    this.recent.set(result.id, result);
    const [oldest] = this.recent.keys();
    if (this.recent.size > MOST_REMEMBERED && oldest !== undefined) this.recent.delete(oldest);
  }

  async byIds(ids: readonly string[]): Promise<ReadonlyMap<string, Result>> {
    const found = ids.length === 0 ? [] : await this.results.findBy({ id: In([...ids]) });
    return new Map(found.map((each) => [each.id, each]));
  }

  /** One page as encoded JSON rows. */
  async page(result: Result, offset: number, limit: number, sort: readonly SortBy[]): Promise<Uint8Array> {
    const file = await this.inOrder(result, sort);
    const page = await this.pages.get(`${file} ${offset} ${limit}`, () =>
      this.engine.do({
        work: 'page',
        file,
        columns: result.columns,
        sorted: sort.length > 0,
        marked: isMarked(result),
        offset,
        limit,
        cellBytes: LIMITS.cellBytes.value,
        pageBytes: LIMITS.pageBytes.value,
      }),
    );
    this.firstPages.read(result.id);
    return page;
  }

  /** A text as far as it is here and goes out at once, and how long it is. */
  cell(result: Result, row: string, field: string): Promise<CellText> {
    const column = result.columns.find((each) => each.id === field);
    if (!column) throw refused(400, 'field-unknown', 'The result has no such field.');
    return this.engine.do({ work: 'cell', file: this.store.rows(result.id), column, row, most: LIMITS.cellDemandBytes.value });
  }

  /** Where a text stands in the rows as they are sorted, from a position on. */
  async find(result: Result, text: string, from: number, sort: readonly SortBy[], signal: AbortSignal): Promise<Found> {
    const file = await this.inOrder(result, sort);
    return this.engine.do({ work: 'find', file, sorted: sort.length > 0, columns: result.columns, text, from }, signal);
  }

  profile(result: Result, field: string, signal: AbortSignal): Promise<Profile> {
    const column = result.columns.find((each) => each.id === field);
    if (!column) throw refused(400, 'field-unknown', 'The result has no such field.');
    return this.engine.do({ work: 'profile', file: this.store.rows(result.id), column }, signal);
  }

  /** Mends what a fault left while the server went on. */
  async mend(): Promise<void> {
    const known = await this.results.find({ select: { id: true } });
    await this.store.sweepLeft(new Set([...known.map((each) => each.id), ...this.early.keys()]), LEFT_AFTER);
    await this.forgetLost(known);
  }

  /** Removes results that are too old, then the oldest while all together, with what was made of them, are too large. */
  async tidy(): Promise<void> {
    const border = new Date(Date.now() - LIMITS.resultAge.value * 3_600_000);
    const old = await this.results.find({ where: { madeAt: LessThan(border) }, select: { id: true } });
    const rest = await this.results.find({ order: { madeAt: 'DESC' }, select: { id: true } });
    let total = 0;
    const over: string[] = [];
    for (const { id } of rest) {
      total += await this.store.sizeOf(id);
      if (total > LIMITS.storeBytes.value) over.push(id);
    }
    for (const id of new Set([...old.map((each) => each.id), ...over])) {
      this.recent.delete(id);
      await this.results.delete(id);
      await this.store.remove(id);
    }
  }

  private async inOrder(result: Result, sort: readonly SortBy[]): Promise<string> {
    const known = sort.every(({ field }) => result.columns.some((each) => each.id === field));
    if (!known) throw refused(400, 'field-unknown', 'The rows are to be sorted by a field they do not have.');
    return sort.length === 0 ? this.store.rows(result.id) : this.sorted(result, sort);
  }

  private async sorted(result: Result, sort: readonly SortBy[]): Promise<string> {
    const name = createHash('sha256').update(JSON.stringify(sort)).digest('hex').slice(0, 24);
    const out = this.store.file(result.id, `sorted-${name}.parquet`);
    if (this.store.has(out) && !this.sorting.has(out)) return out;
    const making = this.sorting.get(out) ?? this.sort(result, sort, out).finally(() => this.sorting.delete(out));
    this.sorting.set(out, making);
    await making;
    return out;
  }

  /** Written aside: where it ends in the middle, nothing stands in its place. */
  private async sort(result: Result, sort: readonly SortBy[], place: string): Promise<void> {
    const out = this.store.making(result.id);
    try {
      const { columns, language } = result;
      await this.engine.do({ work: 'sort', file: this.store.rows(result.id), columns, sort, language, out });
      await this.store.replace(out, place);
      await this.store.prune(result.id, 'sorted-', LIMITS.sortsKept.value);
    } catch (error) {
      await this.store.discard(out);
      throw error;
    }
  }
}

const MOST_REMEMBERED = 200;
/** An hour: longer than the longest statement, sort or download takes. */
const LEFT_AFTER = 3_600_000;

export const isMarked = ({ misfits }: Result) => Object.keys(misfits).length > 0;
