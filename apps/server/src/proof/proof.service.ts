import { createHash, randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import type { AcrossPlace, Column, CrosstabRelations, Definition, Problem, ProofRelations, Statement } from '@cendra/core';
import {
  acrossPlaces,
  acrossValues,
  chartReading,
  columnsOf,
  compile,
  crosstabRelations,
  duckdb,
  fittingLayout,
  foundPlaces,
  LINE_NUMBER,
  MOST_ACROSS,
  parameterOfMark,
  proofFindings,
  proofLooks,
  proofRelations,
  readLayout,
  reportFields,
  rowsBehind,
  shortened,
  stretchColumns,
  withMarkValues,
} from '@cendra/core';
import { Engine, Gate, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { Planner, subjectOf } from '../planning';
import { notFound, refused } from '../problems';
import { Recent } from '../recent';
import { isMarked } from '../runs/results.service';
import { RUNS_ENGINE, PAGES_ENGINE } from '../runs/engines';
import { RunRecordsService } from '../runs/run-records.service';
import { SharedWork } from '../runs/shared-work';
import type { Result, ResultColumn } from '../runs/result.entity';
import type { ProofDto, RowsBehindAskedDto, RowsBehindDto } from './proof.dto';

const MARKS_COLUMN = 'cendra_marks';
/** Nothing of a proof is bound to a moment or a parameter. */
const UNBOUND = { bound: new Map(), now: 0n };
/** What was used longest ago is forgotten; whoever still asks for it makes it again. */
const MOST_KNOWN = 500;
/** So many rows behind a line are shown, and so much of their texts. */
const ROWS_SHOWN = 500;
const TEXT_CHARACTERS = 300;
const NAME = /^[a-f0-9]{24}$/;

/**
 * A result as the lines of a proof: groups with their totals around their rows, computed by the engine over all
 * stored rows, kept beside the result and gone with it.
 */
@Injectable()
export class ProofService {
  private readonly making = new SharedWork<ProofDto>();
  private readonly gate = new Gate();
  /** What was made, by result and key; the files are on disk, this is what a screen has to know of them. */
  private readonly made = new Recent<ProofDto>(MOST_KNOWN);
  /** What was looked at in a result's rows, such as what stands beside one another, by result and statement. */
  private readonly few = new Recent<Few>(MOST_KNOWN);
  private readonly extents = new Recent<ReadonlyMap<string, string | null>>(MOST_KNOWN);
  constructor(
    private readonly store: ResultStore,
    private readonly planner: Planner,
    private readonly records: RunRecordsService,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
    @Inject(PAGES_ENGINE) private readonly pages: Engine,
  ) {}

  /**
   * The lines of a result as a definition's proof lays them out, or those its chart draws. Others wait for their turn; who
   * goes away stops it.
   */
  async of(
    person: Person,
    result: Result,
    definition: Definition,
    signal: AbortSignal,
    what: 'lines' | 'chart' = 'lines',
  ): Promise<ProofDto> {
    const { fields, stored, columns, layout: whole } = await this.reading(result, definition, signal);
    const layout = what === 'lines' ? whole : chartReading(whole, fields)?.layout;
    if (!layout) throw refused(422, 'chart-none', 'The proof draws nothing.', {}, 'a chart, of groups that have the figure it draws');
    const { across } = layout;
    const values = across ? await this.beside(person, result, { ...layout, across }, fields, columns, signal) : undefined;
    const relations =
      across && values ? crosstabRelations({ ...layout, across }, fields, columns, values) : proofRelations(layout, fields, columns);
    const key = keyOf(relations);
    const known = `${result.id}/${key}`;
    const done = this.made.get(known);
    if (done && this.store.has(this.file(result, key))) return done;
    const shown = fields.flatMap(({ id }) => stored.get(id) ?? []);
    const proof = await this.making.do(known, signal, (stop) =>
      this.inTurn(person, stop, () => this.make(result, relations, key, shown, stop, values)),
    );
    this.made.put(known, proof, 1);
    return proof;
  }

  /** The same lines with everything that says how they are read, and the file they lie in. */
  async read(person: Person, result: Result, definition: Definition, signal: AbortSignal) {
    const proof = await this.of(person, result, definition, signal);
    const { fields, layout } = await this.reading(result, definition, signal);
    return { proof, fields, layout, file: this.file(result, proof.key) };
  }

  /** The rows a line is made of, or one of its figures, as the result has them. */
  async behind(
    person: Person,
    result: Result,
    definition: Definition,
    { line, level, place }: RowsBehindAskedDto,
    signal: AbortSignal,
  ): Promise<RowsBehindDto> {
    const proof = await this.of(person, result, definition, signal);
    const { fields, columns, layout } = await this.reading(result, definition, signal);
    if (line >= proof.lines || level > layout.levels.length)
      throw refused(404, 'line-gone', 'The proof has no such line.', {}, 'a line it has');
    const across = layout.across && place !== undefined ? acrossPlaces(layout.across, proof.across ?? [])[place] : undefined;
    const relation = rowsBehind(layout, fields, columns, { line, level, ...(across ? { across } : {}) }, ROWS_SHOWN);
    const shown = columnsOf(relation);
    const cut = shortened(relation, shown, TEXT_CHARACTERS);
    const statement = compile({ node: 'choose', input: cut.relation, columns: cut.columns.slice(0, shown.length) }, duckdb, UNBOUND);
    const lines = { handle: 'lines', file: this.file(result, proof.key), numbered: LINE_NUMBER };
    const rows = await this.inTurn(person, signal, () => this.ask(result, statement, signal, [lines]));
    return { fields: shown.map((each) => each.id), rows: rows.slice(0, ROWS_SHOWN), more: rows.length > ROWS_SHOWN };
  }

  /** What is off in the rows, as the layout reads them. */
  async findings(person: Person, result: Result, definition: Definition, signal: AbortSignal): Promise<readonly Problem[]> {
    const { fields, columns, layout } = await this.reading(result, definition, signal);
    const { across } = layout;
    const values = across ? await this.beside(person, result, { ...layout, across }, fields, columns, signal) : undefined;
    const looks = proofLooks(layout, fields, columns);
    const rows = looks.relation ? await this.looked(person, result, compile(looks.relation, duckdb, UNBOUND), signal) : [];
    return proofFindings(layout, fields, looks, rows, values?.length);
  }

  /** The fields of a result that its definition hands over, and the proof's layout as far as they give it. */
  private async reading(result: Result, definition: Definition, signal: AbortSignal) {
    const all = reportFields(await this.planner.outline(subjectOf(definition, []), signal));
    const stored = new Map(result.columns.map((each) => [each.id, each]));
    const fields = all.filter((each) => !each.forUseOnly && stored.has(each.id));
    if (fields.length === 0)
      throw refused(
        422,
        'nothing-handed-over',
        'No field of this result is handed over.',
        {},
        'at least one field that is not for use only',
      );
    const { proof, parameters } = definition;
    const fitting = fittingLayout(proof, fields, parameters);
    // What is marked is told by the values the rows were got with.
    const values = fitting.marks.some(parameterOfMark) ? await this.records.valuesOf(result.id) : {};
    const read = readLayout(withMarkValues(fitting, parameters, values), fields);
    const columns: readonly Column[] = [
      ...fields.map(({ id, name, type }) => ({ id, name, type })),
      ...(isMarked(result) ? [{ id: MARKS_COLUMN, name: MARKS_COLUMN, type: { kind: 'text' as const } }] : []),
      ...stretchColumns(read, definition.calendar),
    ];
    return { fields: read.fields, stored, columns, layout: read.layout };
  }

  /** Proofs being made. */
  get atWork(): number {
    return this.gate.held;
  }

  /** A page of lines as encoded JSON, in the columns the proof was answered with. */
  async lines(result: Result, key: string, offset: number, limit: number): Promise<Uint8Array> {
    const proof = NAME.test(key) ? this.made.get(`${result.id}/${key}`) : undefined;
    if (!proof || !this.store.has(this.file(result, key))) throw notFound('proof');
    return this.pages.do({
      work: 'page',
      file: this.file(result, key),
      columns: proof.columns as readonly ResultColumn[],
      sorted: false,
      marked: isMarked(result),
      offset,
      limit,
      cellBytes: LIMITS.cellBytes.value,
      pageBytes: LIMITS.pageBytes.value,
    });
  }

  private file(result: Result, key: string): string {
    return this.store.file(result.id, `proof-${key}.parquet`);
  }

  /** What a column's width has to fit depends on the rows alone, so it is asked once a result. */
  private async extentOf(result: Result, stored: readonly ResultColumn[]): Promise<ReadonlyMap<string, string | null>> {
    const known = this.extents.get(result.id) ?? new Map<string, string | null>();
    const missing = stored.filter((each) => !known.has(each.id));
    if (missing.length === 0) return known;
    const measured = await this.pages.do({ work: 'extent', file: this.store.rows(result.id), columns: missing });
    const all = new Map([...known, ...missing.map(({ id }, index) => [id, measured[index] ?? null] as const)]);
    this.extents.put(result.id, all, 1);
    return all;
  }

  /** One person's proofs do not keep everybody else's waiting. */
  private async inTurn<T>(person: Person, signal: AbortSignal, work: () => Promise<T>): Promise<T> {
    const keys = new Map([
      ['all', LIMITS.proofsAtOnce.value],
      [`person ${person.id}`, LIMITS.proofsPerPerson.value],
    ]);
    const leave = await this.gate.enter(keys, signal);
    try {
      return await work();
    } finally {
      leave();
    }
  }

  /** The values that stand beside one another, as they are found in the result. */
  private async beside(
    person: Person,
    result: Result,
    layout: Parameters<typeof acrossValues>[0],
    fields: Parameters<typeof acrossValues>[1],
    stored: readonly Column[],
    signal: AbortSignal,
  ): Promise<readonly AcrossPlace[]> {
    const statement = compile(acrossValues(layout, fields, stored), duckdb, UNBOUND);
    const found = foundPlaces(layout.across, await this.looked(person, result, statement, signal));
    const across = layout.across.levels.flatMap((level) => fields.find((each) => each.id === level.field) ?? []);
    if (found.length > MOST_ACROSS)
      throw refused(
        422,
        'across-many',
        `${across.map((each) => each.label).join(' and ')} ${across.length === 1 ? 'has' : 'have'} more than ${MOST_ACROSS} values to stand beside one another.`,
        { field: layout.across.levels[0]?.field ?? '' },
        'a field of fewer values across, or this one down',
      );
    return found;
  }

  /** The few rows of a statement over a result, asked once. */
  private async looked(person: Person, result: Result, statement: Statement, signal: AbortSignal): Promise<Few> {
    const known = `${result.id}/${keyOf(statement)}`;
    const found = this.few.get(known) ?? (await this.inTurn(person, signal, () => this.ask(result, statement, signal)));
    this.few.put(known, found, 1);
    return found;
  }

  private ask(result: Result, statement: Statement, signal: AbortSignal, beside: readonly Landed[] = []): Promise<Few> {
    return this.inRun(result, signal, async (run) => {
      const landed = [{ handle: 'rows', file: this.store.rows(result.id), numbered: 'line_row' }, ...beside];
      const values = statement.values.map((each) => each.value);
      const rows = await this.engine.do({ work: 'rows', run, landed, text: statement.text, values }, signal);
      return rows.map((cells) => cells.map((cell) => (typeof cell === 'string' ? cell : null)));
    });
  }

  private async inRun<T>(result: Result, signal: AbortSignal, work: (run: string) => Promise<T>): Promise<T> {
    const run = randomUUID();
    try {
      await this.engine.do({ work: 'open', run, folder: this.store.folder(result.id) }, signal);
      return await work(run);
    } finally {
      await this.engine.do({ work: 'close', run }).catch(() => undefined);
    }
  }

  private async make(
    result: Result,
    relations: ProofRelations | CrosstabRelations,
    key: string,
    stored: readonly ResultColumn[],
    signal: AbortSignal,
    across: readonly AcrossPlace[] | undefined,
  ): Promise<ProofDto> {
    const made: string[] = [];
    const making = () => {
      const file = this.store.making(result.id);
      made.push(file);
      return file;
    };
    try {
      return await this.inRun(result, signal, async (run) => {
        const combine = async (statement: Statement, landed: readonly Landed[]) => {
          const out = making();
          const { rows } = await this.engine.do(
            {
              work: 'combine',
              run,
              landed,
              text: statement.text,
              values: statement.values.map((each) => each.value),
              columns: statement.columns.map(({ id }) => id),
              fields: statement.columns,
              // The marks of the rows travel as a column of their own.
              marked: [],
              most: Number.MAX_SAFE_INTEGER,
              out,
            },
            signal,
          );
          return { file: out, rows };
        };
        const rows = { handle: 'rows', file: this.store.rows(result.id), numbered: 'line_row' };
        const beside: Landed[] = [rows];
        for (const { handle, groups } of 'across' in relations ? relations.across : [])
          beside.push({ handle, file: (await combine(compile(groups, duckdb, UNBOUND), [rows])).file });
        const grouped = await combine(compile(relations.groups, duckdb, UNBOUND), beside);
        const { file, rows: lines } = await combine(compile(relations.lines, duckdb, UNBOUND), [
          rows,
          { handle: 'groups', file: grouped.file },
        ]);
        await this.store.replace(file, this.file(result, key));
        await this.store.prune(result.id, 'proof-', LIMITS.proofsKept.value);
        const measured = await this.extentOf(result, stored);
        const scales = new Map(stored.map((each) => [each.id, each.measuredScale]));
        const columns = relations.columns
          .filter(({ id }) => id !== MARKS_COLUMN)
          .map((each) => (scales.get(each.id) === undefined ? each : { ...each, measuredScale: scales.get(each.id) }));
        return {
          key,
          lines,
          groups: Math.max(0, grouped.rows - 1),
          columns,
          extents: Object.fromEntries(stored.map(({ id }) => [id, measured.get(id) ?? null])),
          ...(across ? { across } : {}),
        };
      });
    } finally {
      for (const file of made) await this.store.discard(file);
    }
  }
}

type Few = readonly (readonly (string | null)[])[];

interface Landed {
  readonly handle: string;
  readonly file: string;
  readonly numbered?: string;
}

/** Proofs that ask the same of a result are one, whatever their fields are called. */
function keyOf(relations: ProofRelations | Statement): string {
  return createHash('sha256')
    .update(JSON.stringify(relations, (_key, value: unknown) => (typeof value === 'bigint' ? String(value) : value)))
    .digest('hex')
    .slice(0, 24);
}
