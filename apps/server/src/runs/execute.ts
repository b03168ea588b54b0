import { randomUUID } from 'node:crypto';
import type { Binding, CheckedTrail, ClauseCounts, Inspection, Plan, StepCount } from '@cendra/core';
import {
  answered,
  checkedOf,
  checkedStep,
  clauseCounts,
  countsFrom,
  inspectedRows,
  outputColumns,
  planCounts,
  planRelation,
  planRows,
  relationAfter,
} from '@cendra/core';
import type { Engine, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import { refused } from '../problems';
import { wantedRows } from './answering';
import type { ResultColumn } from './result.entity';
import type { RunSize } from './run.entity';
import type { FirstExtracted, RunSitesOf, StageRecord } from './run-sites';
import { RunSites } from './run-sites';

/** Everything one execution needs, gathered before anything runs. */
export interface Execution extends Omit<RunSitesOf, 'folder'> {
  readonly trail: CheckedTrail;
  readonly step: string;
  readonly size: RunSize;
  /** What is looked at instead of the step's rows; then nothing is counted. */
  readonly inspection: Inspection | undefined;
  readonly binding: Binding;
  /** The first rows are stored and the rest of them is on its way; told of full runs only, where the source sends many. */
  onFirstRows(rows: StoredRows): void;
  /** Rows are stored; counts follow. */
  onRows(rows: StoredRows): Promise<void>;
  /** Clause counts are those of the step itself, where it is one of criteria. */
  onCounts(counts: readonly StepCount[], clauses: ClauseCounts | undefined): void;
}

export interface StoredRows {
  readonly result: string;
  readonly columns: readonly ResultColumn[];
  readonly rows: string;
  readonly complete: boolean;
  readonly cut: 'rows' | 'bytes' | undefined;
  readonly misfits: Readonly<Record<string, number>>;
  readonly bytes: number;
  /** When each source's snapshot was taken. */
  readonly moments: ReadonlyMap<string, Date>;
  readonly stages: readonly StageRecord[];
}

/**
 * Plan, statements, rows, result; then the counts, from the same snapshots. Leaves nothing behind: the run's
 * folder, its engine instance and its transactions are gone when this settles, however it settles.
 */
export async function execute(execution: Execution, engine: Engine, store: ResultStore): Promise<void> {
  const { run, signal } = execution;
  const folder = await store.openRun(run);
  const sites = new RunSites({ ...execution, folder }, engine);
  void sites.open();
  const cancel = () => sites.cancel();
  signal.addEventListener('abort', cancel, { once: true });
  try {
    await execution.onRows(await stored(sites, execution, store));
    if (!execution.inspection) execution.onCounts(await counted(execution, sites), await clausesCounted(execution, sites));
  } finally {
    signal.removeEventListener('abort', cancel);
    await sites.close().finally(() => store.closeRun(run));
  }
}

function planOf({ trail, step, size, inspection, binding }: Execution, sites: RunSites): Plan {
  const dialects = sites.dialect.bind(sites);
  const head = size === 'head' ? LIMITS.headRows.value : undefined;
  if (inspection) {
    const { relation, columns, limit } = inspectedRows(trail, step, inspection, binding);
    return planRows(relation, columns, limit ?? head, dialects);
  }
  const columns = outputColumns(trail, step);
  if (columns.length === 0)
    throw refused(422, 'nothing-taken', 'No field is chosen yet.', { step }, 'at least one field taken in the table step');
  return planRows(relationAfter(trail, step, binding), columns, head, dialects);
}

async function counted({ trail, step, binding }: Execution, sites: RunSites): Promise<readonly StepCount[]> {
  const counting = planCounts(trail, step, binding);
  const groups = [];
  for (const { relation } of counting.segments) {
    const rows = await sites.few(planRelation(relation, sites.dialect.bind(sites)));
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

async function clausesCounted({ trail, step, binding }: Execution, sites: RunSites): Promise<ClauseCounts | undefined> {
  const criteria = checkedOf('criteria', checkedStep(trail, step));
  if (!criteria || criteria.step.off) return undefined;
  return answered(clauseCounts({ trail, binding, others: new Map() }, step), (wanted) => wantedRows(sites, wanted));
}

async function stored(sites: RunSites, execution: Execution, store: ResultStore): Promise<StoredRows> {
  const { size, inspection } = execution;
  const onFirst = async (first: FirstExtracted) => {
    const result = randomUUID();
    await store.keepPart(result, first.file);
    execution.onFirstRows({ ...described(result, first), complete: false, cut: undefined, moments: await sites.moments(), stages: [] });
  };
  const made = await sites.rows(planOf(execution, sites), size === 'full' && !inspection ? onFirst : undefined);
  const { parts, rows, cut, stages } = made;
  const result = randomUUID();
  await store.keep(result, parts);
  const complete = cut === undefined && (size === 'full' || rows < LIMITS.headRows.value);
  return { ...described(result, made), complete, cut, moments: await sites.moments(), stages };
}

type Described = Pick<StoredRows, 'result' | 'columns' | 'rows' | 'misfits' | 'bytes'>;

function described(
  result: string,
  { rows, misfits, measuredScales, bytes, statement }: Omit<FirstExtracted, 'file' | 'marked'>,
): Described {
  const columns = statement.columns.map(({ id, name, type }) => ({
    id,
    name,
    type,
    ...(measuredScales[id] === undefined ? {} : { measuredScale: measuredScales[id] }),
  }));
  return { result, columns, rows: String(rows), misfits, bytes };
}
