import { createHash, randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import type { Column, ProofRelations, Statement } from '@cendra/core';
import { compile, duckdb, fittingLayout, proofRelations } from '@cendra/core';
import type { Sheet } from '../datasets/sheet.service';
import { Engine, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import { notFound, refused } from '../problems';
import { isMarked } from '../runs/results.service';
import { RUNS_ENGINE, PAGES_ENGINE } from '../runs/engines';
import type { Result, ResultColumn } from '../runs/result.entity';
import type { ProofDto } from './proof.dto';

const MARKS_COLUMN = 'cendra_marks';
/** Nothing of a proof is bound to a moment or a parameter. */
const UNBOUND = { bound: new Map(), now: 0n };
const MOST_KNOWN = 500;
const NAME = /^[a-f0-9]{24}$/;

/**
 * A result as the lines of a proof: groups with their totals around their rows, computed by the engine over all
 * stored rows, kept beside the result and gone with it.
 */
@Injectable()
export class ProofService {
  private readonly making = new Map<string, Promise<ProofDto>>();
  /** What was made, by result and key; the files are on disk, this is what a screen has to know of them. */
  private readonly made = new Map<string, ProofDto>();
  private readonly extents = new Map<string, ReadonlyMap<string, string | null>>();
  private working = 0;

  constructor(
    private readonly store: ResultStore,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
    @Inject(PAGES_ENGINE) private readonly pages: Engine,
  ) {}

  async of(result: Result, { definition, fields: all }: Sheet): Promise<ProofDto> {
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
    const layout = fittingLayout(definition.proof, fields);
    const columns: readonly Column[] = [
      ...fields.map(({ id, name, type }) => ({ id, name, type })),
      ...(isMarked(result) ? [{ id: MARKS_COLUMN, name: MARKS_COLUMN, type: { kind: 'text' as const } }] : []),
    ];
    const relations = proofRelations(layout, fields, columns);
    const key = keyOf(relations);
    const known = `${result.id}/${key}`;
    const done = this.made.get(known);
    if (done && this.store.has(this.file(result, key))) return done;
    const making =
      this.making.get(known) ??
      this.make(
        result,
        relations,
        key,
        fields.flatMap(({ id }) => stored.get(id) ?? []),
      ).finally(() => this.making.delete(known));
    this.making.set(known, making);
    const proof = await making;
    this.made.set(known, proof);
    // The oldest are forgotten; whoever still asks for one makes it again.
    for (const old of [...this.made.keys()].slice(0, Math.max(0, this.made.size - MOST_KNOWN))) this.made.delete(old);
    return proof;
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
    this.extents.set(result.id, all);
    for (const old of [...this.extents.keys()].slice(0, Math.max(0, this.extents.size - MOST_KNOWN))) this.extents.delete(old);
    return all;
  }

  private async make(result: Result, relations: ProofRelations, key: string, stored: readonly ResultColumn[]): Promise<ProofDto> {
    if (this.working >= LIMITS.proofsAtOnce.value)
      throw refused(429, 'too-many-proofs', 'Too many proofs are being made.', {}, 'to try again in a moment');
    this.working++;
    const run = randomUUID();
    const groupsFile = this.store.file(result.id, `groups-${run}.parquet`);
    const rows = { handle: 'rows', file: this.store.rows(result.id), numbered: 'line_row' };
    const groups = { handle: 'groups', file: groupsFile };
    const combine = (statement: Statement, landed: readonly { readonly handle: string; readonly file: string }[], out: string) =>
      this.engine.do({
        work: 'combine',
        run,
        landed,
        text: statement.text,
        values: statement.values.map((each) => each.value),
        columns: statement.columns,
        most: Number.MAX_SAFE_INTEGER,
        out,
      });
    try {
      await this.engine.do({ work: 'open', run, folder: this.store.folder(result.id) });
      const grouped = await combine(compile(relations.groups, duckdb, UNBOUND), [rows], groupsFile);
      const out = this.store.file(result.id, `making-${run}.parquet`);
      const { rows: lines } = await combine(compile(relations.lines, duckdb, UNBOUND), [rows, groups], out);
      await this.store.replace(out, this.file(result, key));
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
      };
    } finally {
      this.working--;
      await this.engine.do({ work: 'close', run }).catch(() => undefined);
      await this.store.discard(groupsFile);
    }
  }
}

/** Proofs that ask the same of a result are one, whatever their fields are called. */
function keyOf(relations: ProofRelations): string {
  return createHash('sha256')
    .update(JSON.stringify(relations, (_key, value: unknown) => (typeof value === 'bigint' ? String(value) : value)))
    .digest('hex')
    .slice(0, 24);
}
