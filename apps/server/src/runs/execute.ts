import { randomUUID } from 'node:crypto';
import type { Ask, Binding, Catalogue, CheckedTrail, ClauseCounts, Plan, StepCount } from '@cendra/core';
import {
  answered,
  askedRows,
  checkedStep,
  clauseCounts,
  countsFrom,
  handedOn,
  HEAD_ROWS,
  planCounts,
  planRelation,
  planRows,
  relationAfter,
} from '@cendra/core';
import type { Engine, ResultStore } from '../engine';
import { refused } from '../problems';
import { wantedRows } from './answering';
import type { Extracted, PlacesOf } from './places';
import { Places } from './places';
import type { ResultColumn } from './result.entity';
import type { RunSize } from './run.entity';

/** Everything one execution needs, gathered before anything runs. */
export interface Execution extends Omit<PlacesOf, 'folder'> {
  readonly trail: CheckedTrail;
  readonly step: string;
  readonly size: RunSize;
  /** What is asked instead of the step's rows; then nothing is counted. */
  readonly ask: Ask | undefined;
  readonly binding: Binding;
  readonly catalogue: Catalogue;
  /** Rows are stored; counts follow. */
  onRows(rows: StoredRows): Promise<void>;
  /** Clause counts are those of the step itself, where it is one of criteria. */
  onCounts(counts: readonly StepCount[], clauses: ClauseCounts | undefined): Promise<void>;
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
  const { run, signal } = execution;
  const folder = await store.openRun(run);
  const places = new Places({ ...execution, folder }, engine);
  void places.open();
  const cancel = () => places.cancel();
  signal.addEventListener('abort', cancel, { once: true });
  try {
    await execution.onRows(await stored(await places.rows(planOf(execution, places)), execution, store));
    if (!execution.ask) await execution.onCounts(await counted(execution, places), await clausesCounted(execution, places));
  } finally {
    signal.removeEventListener('abort', cancel);
    await places.close().finally(() => store.closeRun(run));
  }
}

function planOf({ trail, step, size, ask, binding, catalogue }: Execution, places: Places): Plan {
  const dialects = places.dialect.bind(places);
  const head = size === 'head' ? HEAD_ROWS : undefined;
  if (ask) {
    const { relation, columns, limit } = askedRows(trail, step, ask, binding, catalogue);
    return planRows(relation, columns, limit ?? head, dialects);
  }
  const columns = handedOn(trail, step);
  if (columns.length === 0)
    throw refused(422, 'nothing-taken', 'No field is chosen yet.', { step }, 'at least one field taken in the table step');
  return planRows(relationAfter(trail, step, binding, catalogue), columns, head, dialects);
}

async function counted({ trail, step, binding, catalogue }: Execution, places: Places): Promise<readonly StepCount[]> {
  const counting = planCounts(trail, step, binding, catalogue);
  const groups = [];
  for (const { relation } of counting.segments) {
    const rows = await places.few(planRelation(relation, places.dialect.bind(places)));
    groups.push(
      rows.map(([stage, count, ...failed]) => ({
        stage: Number(stage),
        rows: BigInt(count ?? '0'),
        failed: failed.map((each) => BigInt(each ?? '0')),
      })),
    );
  }
  return countsFrom(counting, groups);
}

async function clausesCounted({ trail, step, binding, catalogue }: Execution, places: Places): Promise<ClauseCounts | undefined> {
  const asked = checkedStep(trail, step)?.step;
  if (asked?.kind !== 'criteria' || asked.off) return undefined;
  return answered(clauseCounts({ trail, binding, catalogue, others: new Map() }, step), (wanted) => wantedRows(places, wanted));
}

async function stored(extracted: Extracted, { size }: Execution, store: ResultStore): Promise<StoredRows> {
  const { file, rows, cut, misfits, measuredScales, bytes, statement, asOf } = extracted;
  const result = randomUUID();
  await store.keep(result, file);
  return {
    result,
    columns: statement.columns.map(({ id, name, type }) => ({
      id,
      name,
      type,
      ...(measuredScales[id] === undefined ? {} : { measuredScale: measuredScales[id] }),
    })),
    rows: String(rows),
    complete: cut === undefined && (size === 'full' || rows < HEAD_ROWS),
    cut,
    misfits,
    bytes,
    asOf,
  };
}
