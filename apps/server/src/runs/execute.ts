import { randomUUID } from 'node:crypto';
import type { ClauseCounts, Column, Inspection, StepCount } from '@cendra/core';
import { lengthOf } from '@cendra/core';
import type { Engine, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import type { Given, Planner } from '../planning';
import type { ResultColumn } from './result.entity';
import type { RunSize } from './run.entity';
import type { FirstExtracted, RunSitesOf, StageRecord } from './run-sites';
import { RunSites } from './run-sites';

/** Everything one execution needs, gathered before anything runs. */
export interface Execution extends Omit<RunSitesOf, 'folder' | 'bytes' | 'binding'> {
  readonly given: Given;
  readonly step: string;
  readonly size: RunSize;
  /** What is looked at instead of the step's rows; then nothing is counted. */
  readonly inspection: Inspection | undefined;
  /** The first rows are stored and the rest of them is on its way; told of full runs only, where the source sends many. */
  onFirstRows(rows: StoredRows): void;
  /** Rows are stored; counts follow. */
  onRows(rows: StoredRows): Promise<void>;
  /** How many rows are expected at steps, until they are counted; told of head runs that have not all rows. */
  onExpected(expected: readonly { readonly step: string; readonly rows: string }[]): void;
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
export async function execute(execution: Execution, planner: Planner, engine: Engine, store: ResultStore): Promise<void> {
  const { run, signal } = execution;
  const folder = await store.openRun(run);
  const bytes = (execution.size === 'head' ? LIMITS.headBytes : LIMITS.resultBytes).value;
  const sites = new RunSites({ ...execution, binding: execution.given.binding, folder, bytes }, engine);
  void sites.open();
  const cancel = () => sites.cancel();
  signal.addEventListener('abort', cancel, { once: true });
  try {
    const rows = await stored(sites, execution, planner, store);
    await execution.onRows(rows);
    if (execution.inspection) return;
    const { given, step } = execution;
    if (!rows.complete && execution.size === 'head') execution.onExpected(await expected(sites, execution, planner));
    const { counts, clauses } = await planner.do('counts', { ...given, step }, signal, ({ plan, bound }) => sites.few(plan, bound));
    execution.onCounts(counts, clauses);
  } finally {
    signal.removeEventListener('abort', cancel);
    await sites.close().finally(() => store.closeRun(run));
  }
}

/** What the sources expect at the steps up to the one that runs, as far as each is one statement. */
async function expected(sites: RunSites, { given, step, signal }: Execution, planner: Planner) {
  const plans = await planner.do('expectations', { ...given, step }, signal);
  const told: { readonly step: string; readonly rows: string }[] = [];
  for (const each of plans) {
    const rows = await sites.expected(each.plan);
    if (rows !== undefined) told.push({ step: each.step, rows: String(rows) });
  }
  return told;
}

async function stored(sites: RunSites, execution: Execution, planner: Planner, store: ResultStore): Promise<StoredRows> {
  const { given, step, size, inspection, signal } = execution;
  const most = size === 'head' ? LIMITS.headRows.value : undefined;
  const characters = size === 'head' ? LIMITS.headCharacters.value : undefined;
  const { plan, columns, shown: order } = await planner.do('rows', { ...given, step, inspection, most, characters }, signal);
  const onFirst = async (first: FirstExtracted) => {
    const result = randomUUID();
    await store.keepPart(result, first.file);
    execution.onFirstRows({
      ...described(result, first, columns),
      complete: false,
      cut: undefined,
      moments: await sites.moments(),
      stages: [],
    });
  };
  const made = await sites.rows(plan, { onFirst: size === 'full' && !inspection ? onFirst : undefined, shown: order });
  const { parts, rows, cut, stages } = made;
  const result = randomUUID();
  await store.keep(result, parts);
  const shown = described(result, made, columns);
  const whole = shown.columns.every((each) => each.shortened !== true);
  const complete = cut === undefined && whole && (size === 'full' || rows < LIMITS.headRows.value);
  return { ...shown, complete, cut, moments: await sites.moments(), stages };
}

type Described = Pick<StoredRows, 'result' | 'columns' | 'rows' | 'misfits' | 'bytes'>;

function described(
  result: string,
  { rows, misfits, measured, bytes }: Pick<FirstExtracted, 'rows' | 'misfits' | 'measured' | 'bytes'>,
  columns: readonly Column[],
): Described {
  const told = columns.map(({ id, name, type }): ResultColumn => {
    const longest = measured[lengthOf(id).id] ?? 0;
    return {
      id,
      name,
      type,
      ...(measured[id] === undefined ? {} : { measuredScale: measured[id] }),
      ...(longest > LIMITS.headCharacters.value ? { shortened: true } : {}),
    };
  });
  return { result, columns: told, rows: String(rows), misfits, bytes };
}
