import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { Binding, Column, FieldId, Keys, Plan, Relation, Script, Stage, Statement } from '@cendra/core';
import { columnsOf, COMBINE, fieldOfBeginning, isNull, lengthOf, nodesOfRelation, not, readValue, valueOf } from '@cendra/core';
import type { Engine, EngineWork, Landed } from '../engine';
import { partName } from '../engine';
import { LIMITS } from '../limits';
import { refused } from '../problems';
import type { FirstPart } from './landing';
import { Landing } from './landing';
import type { ShownRows, WriteStatement } from '../planning';
import type { CopyProgress, SaidMessage, SourceSnapshot } from '../sources';

export interface RunSitesOf {
  readonly run: string;
  readonly folder: string;
  readonly binding: Binding;
  readonly signal: AbortSignal;
  /** So many are read from each source for one stage at most. */
  readonly bytes: number;
  open(source: string): Promise<SourceSnapshot>;
  readonly write: WriteStatement;
  onProgress(progress: CopyProgress): void;
}

/** Rows as a folder of Parquet parts in the run's folder, brought from a source or made by the combine engine. */
export interface Extracted {
  readonly parts: string;
  readonly bytes: number;
  readonly rows: number;
  readonly cut: 'rows' | 'bytes' | undefined;
  readonly misfits: Readonly<Record<string, number>>;
  readonly measured: Readonly<Record<string, number>>;
  readonly statement: Statement;
}

/** The first rows of what a source sends, while the rest is on its way. */
export interface FirstExtracted extends FirstPart {
  readonly statement: Statement;
}

/** What a stage of a plan came to: for the run's record. */
export interface StageRecord {
  readonly result: string;
  /** The source it ran in; null for the combine engine. */
  readonly source: string | null;
  readonly rows: number;
  readonly bytes: number;
  /** Of a stage asked by keys: how many there were, or that there were too many and all rows were brought. */
  readonly keys?: number | 'all';
  /** What the source said meanwhile; left out where it said nothing. */
  readonly said?: readonly SaidMessage[];
}

type OnFirst = (first: FirstExtracted) => Promise<void>;
type Few = readonly (readonly (string | null)[])[];

/**
 * The sites one run works at: one snapshot of each source it reads, and its instance of the combine engine. Stages
 * of a plan run where they belong, side by side where none waits for another; the same rows are brought once.
 */
export class RunSites {
  private readonly snapshots = new Map<string, Promise<SourceSnapshot>>();
  /** Those of them that are sessions of scripts. */
  private readonly sessions = new Set<string>();
  private readonly brought = new Map<string, Promise<Extracted>>();
  private readonly records: StageRecord[] = [];
  private files = 0;
  private opened: Promise<unknown> | undefined;

  constructor(
    private readonly of: RunSitesOf,
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

  /**
   * Carries a plan out and leaves its rows in a folder of the run's. Where the last stage is a source's, its first rows
   * are told of while the rest arrives, unless all of them decide which are the first.
   */
  async rows(plan: Plan, { onFirst, shown }: Showing = {}): Promise<Extracted & { readonly stages: readonly StageRecord[] }> {
    const extracted = await this.perform(plan, lastOf(plan), LIMITS.resultRows.value, { onFirst: shown ? undefined : onFirst });
    const parts = shown ? await this.ordered(plan, extracted, shown) : extracted.parts;
    return { ...extracted, parts, stages: [...this.records] };
  }

  /** The rows in their order, in a folder of their own. */
  private async ordered(plan: Plan, { parts, misfits, measured }: Extracted, { by, language, hidden }: ShownRows): Promise<string> {
    const folder = await this.folder('in order');
    const out = join(folder, partName(0, Object.keys(misfits).length > 0));
    const columns = plan.columns.map((each) => {
      const stored = storedAs(each);
      const measuredScale = measured[stored.id];
      return measuredScale === undefined ? stored : { ...stored, measuredScale };
    });
    await this.open();
    const { run, signal } = this.of;
    const leaves = hidden
      .flatMap(({ id }) => plan.columns.filter((each) => storedAs(each).id === id || each.id === lengthOf(id).id))
      .map((each) => storedAs(each).id);
    await this.engine.do({ work: 'order', run, file: parts, columns, sort: by, language, leaves, out }, signal);
    return folder;
  }

  /** The few rows of a plan, such as counts, as texts. Lists that are no parameter's can be bound besides. */
  async few(plan: Plan, lists: Binding['bound'] = new Map()): Promise<Few> {
    const last = lastOf(plan);
    const binding = this.bindingWith(lists);
    if (last.site.kind !== 'combine') {
      const { statement } = await this.of.write({ relation: last.relation, site: last.site, binding });
      return (await this.snapshot(last.site.source, statement)).rows(statement);
    }
    return this.rowsOf(last.relation, await this.landed(plan, last, lists), binding);
  }

  /** How many rows a source expects of a plan that is one statement of it; undefined for any other. */
  async expected(plan: Plan): Promise<bigint | undefined> {
    const [only, ...others] = plan.stages;
    if (!only || others.length > 0 || only.site.kind === 'combine') return undefined;
    const { statement } = await this.of.write({ relation: only.relation, site: only.site, binding: this.of.binding });
    return (await this.snapshot(only.site.source, statement)).estimate(statement);
  }

  /** When each source's snapshot was taken, by the source's clock. */
  async moments(): Promise<ReadonlyMap<string, Date>> {
    const sources = [...this.snapshots].filter(([key]) => !this.sessions.has(key));
    const all = await Promise.all(sources.map(async ([source, opening]) => [source, (await opening).asOf] as const));
    return new Map(all);
  }

  /** Ends what runs at the sources. */
  cancel(): void {
    for (const opening of this.snapshots.values())
      opening.then(
        (snapshot) => snapshot.cancel(),
        () => undefined,
      );
  }

  /** Whatever fails here, everything is let go of; the first failure is thrown afterwards. */
  async close(): Promise<void> {
    // What was being brought ends first: it writes into the run's folder.
    await Promise.allSettled(this.brought.values());
    const closing = [
      this.closeInstance(),
      ...[...this.snapshots.values()].map((each) =>
        each.then(
          (snapshot) => snapshot.close(),
          () => undefined,
        ),
      ),
    ];
    for (const each of await Promise.allSettled(closing)) if (each.status === 'rejected') throw each.reason;
  }

  /** An instance that is still being opened would make the run's folder anew after it was taken away. */
  private async closeInstance(): Promise<void> {
    if (!this.opened) return;
    await this.opened.catch(() => undefined);
    // A lost engine has closed it already.
    await this.engine.do({ work: 'close', run: this.of.run }).catch(() => undefined);
  }

  /** A source is opened once in a run, however many stages ask for it at once. */
  private snapshot(source: string, { script }: Pick<Statement, 'script'> = {}): Promise<SourceSnapshot> {
    const key = script ? `${source} ${script.session}` : source;
    const opening = this.snapshots.get(key) ?? (script ? this.session(source, script) : this.of.open(source));
    this.snapshots.set(key, opening);
    if (script) this.sessions.add(key);
    return opening.then((snapshot) => {
      if (this.of.signal.aborted) throw refused(409, 'run-cancelled', 'The run was stopped.');
      return snapshot;
    });
  }

  /** A session of a source in which a script has run, at the moment of the run. */
  private async session(source: string, { statements }: Script): Promise<SourceSnapshot> {
    const snapshot = await this.snapshot(source);
    return snapshot.session(statements, this.of.signal);
  }

  private perform(plan: Plan, stage: Stage, most: number, { lists = new Map(), onFirst }: Performing): Promise<Extracted> {
    const { site } = stage;
    if (site.kind === 'combine') return this.landed(plan, stage, lists).then((landed) => this.combine(stage, landed, most, lists));
    const from = { stage, source: site.source, onFirst };
    return stage.keys ? this.byKeys(plan, stage.keys, from, lists) : this.extract(from, stage.relation, lists);
  }

  /** The results a stage reads, each brought once: also when another plan of this run wants the same. */
  private async landed(plan: Plan, stage: Stage, lists: Binding['bound']): Promise<readonly Handled[]> {
    const reads = stage.reads.map(async (result): Promise<Handled> => {
      const before = plan.stages.find((each) => each.result === result);
      if (!before) throw new RangeError(`the plan has no stage ${result}`);
      const key = keyOf(plan, before, lists);
      const bringing = this.brought.get(key) ?? this.perform(plan, before, LIMITS.resultRows.value + 1, { lists });
      this.brought.set(key, bringing);
      const { parts, misfits, cut } = await bringing;
      if (cut) throw tooMuch();
      return { handle: result, file: parts, marked: Object.keys(misfits) };
    });
    return Promise.all(reads);
  }

  private async combine(stage: Stage, landed: readonly Handled[], most: number, lists: Binding['bound']): Promise<Extracted> {
    const { statement, marked } = await this.of.write({
      relation: stage.relation,
      site: COMBINE,
      binding: this.bindingWith(lists),
      marked: marksOf(landed),
    });
    const fields = columnsOf(stage.relation).map(storedAs);
    const parts = await this.folder('combined');
    const out = join(parts, partName(0, false));
    await this.open();
    const made = await this.engine.do(
      {
        work: 'combine',
        run: this.of.run,
        landed,
        text: statement.text,
        values: textsOf(statement),
        columns: statement.columns.map((each) => storedAs(each).id),
        fields,
        marked,
        most,
        out,
      },
      this.of.signal,
    );
    this.record({ result: stage.result, source: null, rows: made.rows, bytes: made.bytes });
    const cut = made.rows >= most ? ('rows' as const) : undefined;
    return { parts, ...made, cut, statement: { ...statement, columns: columnsOf(stage.relation) } };
  }

  /** The rows whose keys are among those that have landed, where there are few enough; else all rows. */
  private async byKeys(plan: Plan, keys: Keys, from: From, lists: Binding['bound']): Promise<Extracted> {
    const { stage } = from;
    const leading = (await this.landed(plan, { ...stage, reads: [keys.of] }, lists))[0];
    const before = plan.stages.find((each) => each.result === keys.of);
    const column = before && columnsOf(before.relation).find((each) => each.id === keys.column);
    if (!leading || !column) throw new RangeError('the keys of a stage stand in another one');
    const rows = await this.rowsOf(distinct({ handle: keys.of, columns: [column] }, keys), [leading], this.of.binding);
    if (rows.length > keys.most) return this.extract(from, keys.all, lists, 'all');
    const values = rows.flatMap(([cell]) => {
      const read = typeof cell === 'string' ? readValue(column.type, cell) : undefined;
      return read?.ok ? [read.value] : [];
    });
    const bound = new Map([...lists, [keys.list, { takes: 'several' as const, values }]]);
    return this.extract(from, stage.relation, bound, values.length);
  }

  private async rowsOf(relation: Relation, landed: readonly Handled[], binding: Binding): Promise<Few> {
    const { statement } = await this.of.write({ relation, site: COMBINE, binding, misfits: marksOf(landed) });
    await this.open();
    const { run, signal } = this.of;
    return this.engine.do({ work: 'rows', run, landed, text: statement.text, values: textsOf(statement) }, signal);
  }

  private async extract(
    { stage, source, onFirst }: From,
    relation: Relation,
    lists: Binding['bound'],
    keys?: StageRecord['keys'],
  ): Promise<Extracted> {
    const { statement } = await this.of.write({ relation, site: stage.site, binding: this.bindingWith(lists), sent: true });
    const snapshot = await this.snapshot(source, statement);
    const filler = statement.columns.length === 1;
    // One column alone: a row that is null would be an empty line, which readers of CSV skip.
    const sent = filler ? { ...statement, text: `select q.*, 1 from (${statement.text}) q` } : statement;
    const parts = await this.folder('rows');
    // Rows of which no column is wanted are still counted; they come with one that says nothing.
    const columns = statement.columns.length > 0 ? statement.columns.map(storedAs) : [{ id: 'row', type: WHOLE }];
    const landing = new Landing(
      parts,
      (from, rows, out) => this.land({ from, rows, out, columns }),
      filler,
      this.of.folder,
      onFirst && ((first) => onFirst({ ...first, statement })),
    );
    const limits = { rows: LIMITS.resultRows.value, bytes: this.of.bytes };
    const copied = await snapshot.copyTo(landing, sent, limits, (progress) => this.of.onProgress(progress));
    const { rows, bytes, cut } = copied;
    const said = snapshot.said();
    this.record({
      result: stage.result,
      source,
      rows,
      bytes,
      ...(keys === undefined ? {} : { keys }),
      ...(said.length > 0 ? { said } : {}),
    });
    return { parts, ...landing.sums, rows, cut, statement };
  }

  private async land(segment: Omit<EngineWork & { work: 'land' }, 'work' | 'run'>): Promise<Landed> {
    await this.open();
    return this.engine.do({ work: 'land', run: this.of.run, ...segment }, this.of.signal);
  }

  private bindingWith(lists: Binding['bound']): Binding {
    const { binding } = this.of;
    return lists.size === 0 ? binding : { ...binding, bound: new Map([...binding.bound, ...lists]) };
  }

  private record(record: StageRecord): void {
    this.records.push(record);
  }

  private async folder(word: string): Promise<string> {
    const folder = join(this.of.folder, `${word} ${++this.files}`);
    await mkdir(folder, { mode: 0o700 });
    return folder;
  }
}

/** How rows are told of while they come, and the order they are shown in. */
interface Showing {
  readonly onFirst?: OnFirst | undefined;
  readonly shown?: ShownRows | undefined;
}

interface Performing {
  readonly lists?: Binding['bound'];
  readonly onFirst?: OnFirst | undefined;
}

/** A stage at a source. */
interface From {
  readonly stage: Stage;
  readonly source: string;
  readonly onFirst: OnFirst | undefined;
}

/** Rows that were brought, under the handle statements read them by. */
interface Handled {
  readonly handle: string;
  readonly file: string;
  /** Fields some of whose values fit no type. */
  readonly marked: readonly FieldId[];
}

const marksOf = (landed: readonly Handled[]) => new Map(landed.map((each) => [each.handle, each.marked]));

/** The distinct values of a column that has landed, one more than are wanted at most. */
function distinct(landing: Pick<Relation & { node: 'landed' }, 'handle' | 'columns'>, { most, column }: Keys): Relation {
  const landed: Relation = { node: 'landed', ...landing };
  const [own] = columnsOf(landed);
  if (!own) throw new RangeError(`nothing has landed in ${column}`);
  const value = valueOf(own);
  const some: Relation = { node: 'filter', input: landed, condition: not(isNull(value)) };
  const group: Relation = { node: 'group', input: some, keys: [{ ...own, expression: value }], counts: [] };
  return { node: 'limit', input: group, count: most + 1 };
}

function lastOf(plan: Plan): Stage {
  const last = plan.stages[plan.stages.length - 1];
  if (!last) throw new RangeError('a plan has a last stage');
  return last;
}

/** What decides the rows of a stage: its place, its relation, and those of the stages it reads. */
function keyOf(plan: Plan, stage: Stage, lists: Binding['bound']): string {
  const reads = stage.reads.map((result) => {
    const before = plan.stages.find((each) => each.result === result);
    return before && keyOf(plan, before, lists);
  });
  const nodes = nodesOfRelation(stage.relation);
  const numbers = new Map<unknown, number>(nodes.map((node, at) => [node, at]));
  // Each node once, others by their numbers: written out, one that stands in several places would double at every level.
  return JSON.stringify([stage.site, nodes, reads, [...lists.keys()]], function (this: unknown, _key, value: unknown) {
    if (typeof value === 'bigint') return `${value}n`;
    return this !== nodes && numbers.has(value) ? `node ${numbers.get(value)}` : value;
  });
}

/** The beginning of a text is stored as its field. */
const storedAs = ({ id, type }: Column) => ({ id: fieldOfBeginning(id), type });

const WHOLE = { kind: 'whole' } as const;

const textsOf = (statement: Statement) => statement.values.map(({ value }) => value);

const tooMuch = () =>
  refused(507, 'engine-full', 'More rows would have to meet in the combine engine than it may take.', {}, 'criteria that keep fewer rows');
