import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import type { Binding, Catalogue, CheckedTrail, Dialect, Relation, Site, StepCount } from '@cendra/core';
import { compile, countsFrom, duckdb, handedOn, HEAD_ROWS, planCounts, planRows, relationAfter } from '@cendra/core';
import type { Engine, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import { refused } from '../problems';
import type { CopyProgress, Moment } from '../sources';
import type { ResultColumn } from './result.entity';
import type { RunSize } from './run.entity';

/** Everything one execution needs, gathered before anything runs. */
export interface Execution {
  readonly run: string;
  readonly trail: CheckedTrail;
  readonly step: string;
  readonly size: RunSize;
  readonly binding: Binding;
  readonly catalogue: Catalogue;
  /** Opens the one moment of a source; called at most once per source. */
  open(source: string): Promise<Moment>;
  dialect(source: string): Dialect;
  onProgress(progress: CopyProgress): void;
  /** Rows are stored; counts follow. */
  onRows(rows: StoredRows): Promise<void>;
  onCounts(counts: readonly StepCount[]): Promise<void>;
  readonly signal: AbortSignal;
}

export interface StoredRows {
  readonly result: string;
  readonly columns: readonly ResultColumn[];
  readonly rows: string;
  readonly complete: boolean;
  readonly cut: 'rows' | 'bytes' | undefined;
  readonly misfits: Readonly<Record<string, number>>;
  readonly bytes: number;
  readonly asOf: Date;
}

/**
 * Plan, statements, rows, result; then the counts, from the same moment. Leaves nothing behind: the run's
 * folder, its engine instance and its transactions are gone when this settles, however it settles.
 */
export async function execute(execution: Execution, engine: Engine, store: ResultStore): Promise<void> {
  const { run, trail, step, size, binding, catalogue, signal } = execution;
  const columns = handedOn(trail, step);
  if (columns.length === 0)
    throw refused(422, 'nothing-taken', 'No field is chosen yet.', { step }, 'at least one field taken in the table step');
  const relation = relationAfter(trail, step, binding, catalogue);
  const plan = planRows(relation, columns, size === 'head' ? HEAD_ROWS : undefined, (site) => dialectOf(site, execution));
  const [fragment] = plan.fragments;
  if (!fragment || plan.fragments.length > 1 || fragment.site.kind !== 'source') {
    throw refused(422, 'cannot-run', 'No single source can compute this trail exactly.', { step }, 'expressions the source can compute');
  }
  const { source } = fragment.site;
  const moment = await execution.open(source);
  const cancel = () => void moment.cancel();
  signal.addEventListener('abort', cancel, { once: true });
  try {
    if (signal.aborted) throw refused(409, 'run-cancelled', 'The run was stopped.');
    await execution.onRows(await storeRows(execution, moment, source, fragment.relation, engine, store));
    const counting = planCounts(trail, step, binding, catalogue);
    const groups = await moment.rows(compile(counting.relation, execution.dialect(source), binding));
    await execution.onCounts(
      countsFrom(
        counting,
        groups.map(([stage, rows, failed]) => ({ stage: Number(stage), rows: BigInt(rows ?? '0'), failed: BigInt(failed ?? '0') })),
      ),
    );
  } finally {
    signal.removeEventListener('abort', cancel);
    await moment.close();
    await store.closeRun(run);
  }
}

function dialectOf(site: Site, execution: Execution): Dialect {
  return site.kind === 'combine' ? duckdb : execution.dialect(site.source);
}

async function storeRows(
  execution: Execution,
  moment: Moment,
  source: string,
  relation: Relation,
  engine: Engine,
  store: ResultStore,
): Promise<StoredRows> {
  const { run, size, signal } = execution;
  const folder = await store.openRun(run);
  const statement = compile(relation, execution.dialect(source), execution.binding);
  const filler = statement.columns.length === 1;
  // One column alone: a row that is null would be an empty line, which readers of CSV skip.
  const sent = filler ? { ...statement, text: `select q.*, 1 from (${statement.text}) q` } : statement;
  const csv = join(folder, 'rows.csv');
  const opened = engine.do({ work: 'open', run, folder }, signal);
  opened.catch(() => undefined);
  const copied = await moment.copyTo(csv, sent, { rows: LIMITS.resultRows.value, bytes: LIMITS.resultBytes.value }, (progress) =>
    execution.onProgress(progress),
  );
  await opened;
  try {
    const out = join(folder, 'rows.parquet');
    const columns = statement.columns.map(({ id, type }) => ({ id, type }));
    const landed = await engine.do(
      { work: 'land', run, csv, filler, columns, longestRow: copied.longestRow, rows: copied.rows, out },
      signal,
    );
    const result = randomUUID();
    await store.keep(result, out);
    const whole = copied.cut === undefined && (size === 'full' || copied.rows < HEAD_ROWS);
    return {
      result,
      columns: statement.columns.map(({ id, name, type }) => ({
        id,
        name,
        type,
        ...(landed.measuredScales[id] === undefined ? {} : { measuredScale: landed.measuredScales[id] }),
      })),
      rows: String(copied.rows),
      complete: whole,
      cut: copied.cut,
      misfits: landed.misfits,
      bytes: landed.bytes,
      asOf: moment.asOf,
    };
  } finally {
    // Rows are told before the instance is gone; a lost engine has closed it already.
    engine.do({ work: 'close', run }).catch(() => undefined);
  }
}
