import { join } from 'node:path';
import type { Binding, Dialect, Plan, Relation, Site, Statement } from '@cendra/core';
import { compile, duckdb } from '@cendra/core';
import type { Engine } from '../engine';
import { LIMITS } from '../limits';
import { refused } from '../problems';
import type { CopyOutcome, CopyProgress, Moment } from '../sources';

export interface PlacesOf {
  readonly run: string;
  readonly folder: string;
  readonly binding: Binding;
  readonly signal: AbortSignal;
  open(source: string): Promise<Moment>;
  dialect(source: string): Dialect;
  onProgress(progress: CopyProgress): void;
}

/** Rows of a file in the run's folder, or of the combine engine's making. */
export interface Extracted {
  readonly file: string;
  readonly bytes: number;
  readonly rows: number;
  readonly cut: 'rows' | 'bytes' | undefined;
  readonly misfits: Readonly<Record<string, number>>;
  readonly measuredScales: Readonly<Record<string, number>>;
  readonly statement: Statement;
  readonly asOf: Date;
}

/**
 * The places one run works in: the one moment of each source it reads, and its instance of the combine engine.
 * Fragments of a plan run where they belong; what meets in the combine engine is landed there first, once.
 */
export class Places {
  private readonly moments = new Map<string, Moment>();
  private readonly landed = new Map<string, string>();
  private files = 0;
  private opened: Promise<unknown> | undefined;

  constructor(
    private readonly of: PlacesOf,
    private readonly engine: Engine,
  ) {}

  /** Opens the run's instance of the combine engine; it is opened when it is first needed, or sooner by this. */
  open(): Promise<unknown> {
    if (!this.opened) {
      this.opened = this.engine.do({ work: 'open', run: this.of.run, folder: this.of.folder }, this.of.signal);
      this.opened.catch(() => undefined);
    }
    return this.opened;
  }

  dialect(site: Site): Dialect {
    return site.kind === 'combine' ? duckdb : this.of.dialect(site.source);
  }

  /** Carries a plan out and leaves its rows in a Parquet file of the run's folder. */
  async rows(plan: Plan): Promise<Extracted> {
    const last = lastOf(plan);
    if (last.site.kind !== 'combine') return this.extract(last.site.source, last.relation);
    const { landed, asOf, misfits } = await this.land(plan);
    const statement = compile(last.relation, duckdb, this.of.binding);
    const out = this.file('combined');
    const most = LIMITS.resultRows.value;
    const columns = statement.columns.map(({ id, type }) => ({ id, type }));
    const made = await this.engine.do(
      { work: 'combine', run: this.of.run, landed, text: statement.text, values: textsOf(statement), columns, most, out },
      this.of.signal,
    );
    const cut = made.rows >= most ? ('rows' as const) : undefined;
    return { file: out, ...made, cut, misfits, measuredScales: {}, statement, asOf };
  }

  /** The few rows of a plan, such as counts, as texts. Lists that are no parameter's can be bound besides. */
  async few(plan: Plan, lists: Binding['bound'] = new Map()): Promise<readonly (readonly (string | null)[])[]> {
    const last = lastOf(plan);
    const { now, bound } = this.of.binding;
    const binding = { now, bound: new Map([...bound, ...lists]) };
    if (last.site.kind !== 'combine') {
      const { source } = last.site;
      return (await this.moment(source)).rows(compile(last.relation, this.of.dialect(source), binding));
    }
    const { landed } = await this.land(plan);
    const statement = compile(last.relation, duckdb, binding);
    return this.engine.do({ work: 'rows', run: this.of.run, landed, text: statement.text, values: textsOf(statement) }, this.of.signal);
  }

  /** Ends what runs at the sources. */
  cancel(): void {
    for (const moment of this.moments.values()) void moment.cancel();
  }

  /** Whatever fails here, everything is let go of; the first failure is thrown afterwards. */
  async close(): Promise<void> {
    const closing = [this.closeInstance(), ...[...this.moments.values()].map((each) => each.close())];
    for (const each of await Promise.allSettled(closing)) if (each.status === 'rejected') throw each.reason;
  }

  /** An instance that is still being opened would make the run's folder anew after it was taken away. */
  private async closeInstance(): Promise<void> {
    if (!this.opened) return;
    await this.opened.catch(() => undefined);
    // A lost engine has closed it already.
    await this.engine.do({ work: 'close', run: this.of.run }).catch(() => undefined);
  }

  private async moment(source: string): Promise<Moment> {
    const known = this.moments.get(source);
    if (known) return known;
    const moment = await this.of.open(source);
    this.moments.set(source, moment);
    if (this.of.signal.aborted) throw refused(409, 'run-cancelled', 'The run was stopped.');
    return moment;
  }

  /** Everything but the last fragment, brought to the combine engine; the same rows are brought once. */
  private async land(plan: Plan) {
    const landed: { handle: string; file: string }[] = [];
    let misfits: Record<string, number> = {};
    let asOf = new Date();
    for (const { site, relation, result } of plan.fragments.slice(0, -1)) {
      if (site.kind === 'combine') throw new RangeError('only the last fragment of a plan runs in the combine engine');
      const key = JSON.stringify([site, relation], (_key, value: unknown) => (typeof value === 'bigint' ? `${value}n` : value));
      let file = this.landed.get(key);
      if (file === undefined) {
        const extracted = await this.extract(site.source, relation);
        if (extracted.cut) throw tooMuch();
        file = extracted.file;
        misfits = { ...misfits, ...extracted.misfits };
        asOf = extracted.asOf;
        this.landed.set(key, file);
      }
      landed.push({ handle: result, file });
    }
    return { landed, misfits, asOf };
  }

  private async extract(source: string, relation: Relation): Promise<Extracted> {
    const moment = await this.moment(source);
    const statement = compile(relation, this.of.dialect(source), this.of.binding);
    const filler = statement.columns.length === 1;
    // One column alone: a row that is null would be an empty line, which readers of CSV skip.
    const sent = filler ? { ...statement, text: `select q.*, 1 from (${statement.text}) q` } : statement;
    const csv = this.file('rows', 'csv');
    const limits = { rows: LIMITS.resultRows.value, bytes: LIMITS.resultBytes.value };
    const copied: CopyOutcome = await moment.copyTo(csv, sent, limits, (progress) => this.of.onProgress(progress));
    await this.open();
    const out = this.file('rows');
    const columns = statement.columns.map(({ id, type }) => ({ id, type }));
    const { run, signal } = this.of;
    const { longestRow, rows, cut } = copied;
    const landed = await this.engine.do({ work: 'land', run, csv, filler, columns, longestRow, rows, out }, signal);
    return { file: out, ...landed, rows, cut, statement, asOf: moment.asOf };
  }

  private file(word: string, ending = 'parquet'): string {
    return join(this.of.folder, `${word} ${++this.files}.${ending}`);
  }
}

function lastOf(plan: Plan) {
  const last = plan.fragments[plan.fragments.length - 1];
  if (!last) throw new RangeError('a plan has a last fragment');
  return last;
}

const textsOf = (statement: Statement) => statement.values.map(({ value }) => value);

const tooMuch = () =>
  refused(507, 'engine-full', 'More rows would have to meet in the combine engine than it may take.', {}, 'criteria that keep fewer rows');
