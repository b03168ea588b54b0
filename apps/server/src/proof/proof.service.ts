import { Inject, Injectable } from '@nestjs/common';
import type { AcrossPlace, Column, Problem, ProofRelations, SheetField, Statement } from '@cendra/core';
import {
  acrossPlaces,
  acrossValues,
  BEHIND_TEXT_MOST,
  chartReading,
  columnsOf,
  compile,
  crosstabRelations,
  duckdb,
  figuresOfAll,
  foundPlaces,
  grouped,
  LINE_NUMBER,
  MOST_ACROSS,
  proofFindings,
  proofLooks,
  proofRelations,
  rowsBehind,
  shortened,
  titleFigures,
} from '@cendra/core';
import { Engine, ResultStore } from '../engine';
import type { HeldDatasetOf } from '../datasets';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { notFound, refused } from '../problems';
import { Recent } from '../recent';
import { isMarked } from '../runs/results.service';
import { RUNS_ENGINE, PAGES_ENGINE } from '../runs/engines';
import { SharedWork } from '../runs/shared-work';
import type { Result, ResultColumn } from '../runs/result.entity';
import { LayoutReading, MARKS_COLUMN } from './layout-reading.service';
import type { ProofDto, RowsBehindAskedDto, RowsBehindDto } from './proof.dto';
import type { Landed } from './result-rows.service';
import { keyOf, ResultRows, UNBOUND } from './result-rows.service';

/** What was used longest ago is forgotten; whoever still asks for it makes it again. */
const MOST_KNOWN = 500;
/** So many rows behind a line are shown. */
const ROWS_SHOWN = 500;
const NAME = /^[a-f0-9]{24}$/;

/**
 * A result as the lines of a proof: groups with their totals around their rows, computed by the engine over all
 * stored rows, kept beside the result and gone with it.
 */
@Injectable()
export class ProofService {
  private readonly making = new SharedWork<ProofDto>();
  /** What was made, by result and key; the files are on disk, this is what a screen has to know of them. */
  private readonly made = new Recent<ProofDto>(MOST_KNOWN);
  private readonly extents = new Recent<ReadonlyMap<string, string | null>>(MOST_KNOWN);

  constructor(
    private readonly store: ResultStore,
    private readonly rows: ResultRows,
    private readonly layouts: LayoutReading,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
    @Inject(PAGES_ENGINE) private readonly pages: Engine,
  ) {}

  /**
   * The lines of a result as a definition's proof lays them out, or those its chart draws. Others wait for their turn; who
   * goes away stops it.
   */
  async of(person: Person, result: Result, held: HeldDatasetOf, signal: AbortSignal, what: 'lines' | 'chart' = 'lines'): Promise<ProofDto> {
    const { fields, stored, columns, layout: whole } = await this.layouts.read(person, result, held, signal);
    const layout = what === 'lines' ? whole : chartReading(whole, fields)?.layout;
    if (!layout) throw refused(422, 'chart-none', 'The proof draws nothing.', {}, 'a chart, of groups that have the figure it draws');
    const { across } = layout;
    const values = across ? await this.beside(person, result, { ...layout, across }, fields, columns, signal) : undefined;
    const relations =
      across && values ? crosstabRelations({ ...layout, across }, fields, columns, values) : proofRelations(layout, fields, columns);
    const key = keyOf(relations);
    const known = `${result.id}/${key}`;
    const done = this.made.get(known);
    const figures = what === 'lines' ? await this.figures(person, result, held, fields, columns, signal) : undefined;
    const told = (proof: ProofDto): ProofDto => (figures ? { ...proof, figures } : proof);
    if (done && this.store.has(this.file(result, key))) return told(done);
    const shown = fields.flatMap(({ id }) => stored.get(id) ?? []);
    const proof = await this.making.do(known, signal, (stop) =>
      this.rows.inTurn(person, stop, () => this.make(result, relations, key, shown, stop, values)),
    );
    this.made.put(known, proof, 1);
    return told(proof);
  }

  /** The figures of all rows that stand in the title and the note; undefined where none does. */
  private async figures(
    person: Person,
    result: Result,
    { definition: { proof } }: HeldDatasetOf,
    fields: readonly SheetField[],
    stored: readonly Column[],
    signal: AbortSignal,
  ): Promise<readonly (string | null)[] | undefined> {
    const figures = titleFigures(proof, fields);
    if (figures.length === 0) return undefined;
    const statement = compile(figuresOfAll(figures, fields, stored), duckdb, UNBOUND);
    const [row] = await this.rows.looked(person, result, statement, signal);
    return row;
  }

  /** The same lines with everything that says how they are read, and the file they lie in. */
  async read(person: Person, result: Result, held: HeldDatasetOf, signal: AbortSignal) {
    const proof = await this.of(person, result, held, signal);
    const { fields, layout } = await this.layouts.read(person, result, held, signal);
    return { proof, fields, layout, file: this.file(result, proof.key) };
  }

  /** The rows a line is made of, or one of its figures, as the result has them. */
  async behind(
    person: Person,
    result: Result,
    held: HeldDatasetOf,
    { line, level, place }: RowsBehindAskedDto,
    signal: AbortSignal,
  ): Promise<RowsBehindDto> {
    const proof = await this.of(person, result, held, signal);
    const { fields, columns, layout } = await this.layouts.read(person, result, held, signal);
    if (line >= proof.lines || level > layout.levels.length)
      throw refused(404, 'line-gone', 'The proof has no such line.', {}, 'a line it has');
    const across = layout.across && place !== undefined ? acrossPlaces(layout.across, proof.across ?? [])[place] : undefined;
    const relation = rowsBehind(layout, fields, columns, { line, level, ...(across ? { across } : {}) }, ROWS_SHOWN);
    const shown = columnsOf(relation);
    const cut = shortened(relation, shown, BEHIND_TEXT_MOST);
    const statement = compile({ node: 'choose', input: cut.relation, columns: cut.columns.slice(0, shown.length) }, duckdb, UNBOUND);
    const lines = { handle: 'lines', file: this.file(result, proof.key), numbered: LINE_NUMBER };
    const rows = await this.rows.inTurn(person, signal, () => this.rows.ask(result, statement, signal, [lines]));
    return { fields: shown.map((each) => each.id), rows: rows.slice(0, ROWS_SHOWN), more: rows.length > ROWS_SHOWN };
  }

  /** What is off in the rows, as the layout reads them. */
  async findings(person: Person, result: Result, held: HeldDatasetOf, signal: AbortSignal): Promise<readonly Problem[]> {
    const { fields, columns, layout } = await this.layouts.read(person, result, held, signal);
    const { across } = layout;
    const values = across ? await this.beside(person, result, { ...layout, across }, fields, columns, signal) : undefined;
    const looks = proofLooks(layout, fields, columns);
    const rows = looks.relation ? await this.rows.looked(person, result, compile(looks.relation, duckdb, UNBOUND), signal) : [];
    return proofFindings(layout, fields, looks, rows, values?.length);
  }

  /** Proofs being made. */
  get atWork(): number {
    return this.rows.atWork;
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
    const found = foundPlaces(layout.across, await this.rows.looked(person, result, statement, signal));
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

  private async make(
    result: Result,
    relations: ProofRelations,
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
      return await this.rows.inRun(result, signal, async (run) => {
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
        for (const { handle, groups, emptyPerGroup = 0 } of relations.landed) {
          const { file, rows: found } = await combine(compile(groups, duckdb, UNBOUND), beside);
          if (found * emptyPerGroup > LIMITS.emptyGroups.value) throw tooManyEmpty();
          beside.push({ handle, file });
        }
        const groups = await combine(compile(relations.groups, duckdb, UNBOUND), beside);
        const { file, rows: lines } = await combine(compile(relations.lines, duckdb, UNBOUND), [
          rows,
          { handle: 'groups', file: groups.file },
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
          groups: Math.max(0, groups.rows - 1),
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

const tooManyEmpty = () =>
  refused(
    422,
    'groups-many',
    `The proof may come to more than ${grouped(LIMITS.emptyGroups.value)} groups without rows.`,
    {},
    'them on fewer levels, or only groups with rows',
  );
