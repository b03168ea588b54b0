import { nowMicros } from '../ui/now';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { ClauseCounts, GivenValues, Inspection, JoinOutcome, OutcomeKey } from '@cendra/core';
import { bindDefinition, equal } from '@cendra/core';
import type { RunDto, StepCountDto } from '../api';
import { isOpen } from '../runs/runs-slice';
import type { RunOf, RunState } from '../runs/use-run';
import type { Bench } from './use-bench';

/** Slots run again by themselves only while the last run took less than this. */
const QUICK_MS = 2_000;

export interface HeadRun {
  /** The rows shown are of this definition, step and these values. */
  readonly current: boolean;
  /** Exact counts by step, as they were told last. */
  readonly counts: Readonly<Record<string, StepCountDto>>;
  /** How many rows are expected at a step until it is counted; undefined where nothing is. */
  expected(step: string): string | undefined;
  /** Whether a step's count is of this definition and these values. */
  countCurrent(step: string): boolean;
  /** Of the selected step, where it is one of criteria and its rows are shown. */
  readonly clauses: ClauseCounts | undefined;
  readonly clausesCurrent: boolean;
  /** Nothing runs by itself any more, for the last run took its time; it is asked for by hand. */
  readonly waits: boolean;
  /** Why nothing can run now; undefined when something can. */
  readonly obstacle: 'blocked' | 'nothing taken' | 'values' | 'without source' | undefined;
  run(size: 'head' | 'full'): void;
  /** Shows the rows of one line of a join's ledger, or of one key of it, in the place of its rows; `words` say which. */
  showOutcome(outcome: JoinOutcome, words: string, key?: OutcomeKey): void;
  /** Shows the rows a group or a line of the step was made of. */
  showMadeOf(inspection: MadeOf, words: string): void;
  /** Which rows of a join, or of a group, are shown, in words. */
  readonly outcome: string;
  /** Shows the rows in which the step, or one of its fields, failed, in the place of its rows. */
  showFailed(field?: string): void;
}

/** Keeps a head run of the selected step going as edits are saved and values change. */
export function useHeadRun(bench: Bench, state: RunState): HeadRun {
  const { id, trail, selected, values, starting, withoutValues } = bench;
  const { saved, pending } = bench.bench;
  const binding = useMemo(() => bindDefinition(trail.definition, values, nowMicros()), [trail.definition, values]);
  const taken = selected?.schema.fields.some((each) => !each.forUseOnly) ?? false;
  const obstacle = withoutValues
    ? 'without source'
    : !selected || selected.blocked
      ? 'blocked'
      : !taken
        ? 'nothing taken'
        : binding.problems.length > 0
          ? 'values'
          : undefined;
  const step = selected?.step.id ?? '';
  const settled = pending.length === 0;
  const wanted = useMemo(
    (): Omit<RunOf, 'size'> => ({ dataset: id, revision: saved.revision, step, values: binding.used }),
    [id, saved.revision, step, binding.used],
  );
  const of = useRef<Omit<RunOf, 'size'>>(undefined);
  const { start, shown } = state;
  const quick = !shown || shown.size === 'full' || shown.ms === null || shown.ms < QUICK_MS;

  const run = useCallback(
    (size: 'head' | 'full') => {
      of.current = wanted;
      void start({ ...wanted, size });
    },
    [start, wanted],
  );

  // What is asked for while an edit is being saved waits for it, for it would be of rows that are none any more.
  const [wish, setWish] = useState<Wish>();
  const [outcome, setOutcome] = useState('');
  const inspect = useCallback((inspection: Inspection, words = '') => setWish({ step, inspection, words }), [step]);
  if (wish && wish.step !== step) setWish(undefined);
  useEffect(() => {
    if (obstacle !== undefined || starting || !settled || wish || !quick || (of.current && equal(of.current, wanted))) return;
    run('head');
  }, [obstacle, starting, settled, wish, quick, wanted, run]);

  useEffect(() => {
    if (!wish || wish.step !== step || !settled) return;
    setWish(undefined);
    of.current = wanted;
    setOutcome(wish.words);
    void start({ ...wanted, size: 'head', inspection: wish.inspection });
  }, [wish, step, settled, wanted, start]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key !== 'Enter' || obstacle !== undefined || !settled) return;
      event.preventDefault();
      run('head');
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [obstacle, settled, run]);

  const current =
    settled && shown !== undefined && shown.revision === saved.revision && shown.step === step && sameValues(shown.values, binding.used);
  // Inspections are not counted; the counts stay those of the rows. A step on another lane keeps its own until it is counted anew.
  const [counted, setCounted] = useState<Counted>(NOTHING_COUNTED);
  if (shown && shown.inspection === null && shown.counts && counted.from !== shown.counts) setCounted(countedWith(counted, shown));
  const countCurrent = useCallback(
    (of: string) => {
      const by = counted.by[of];
      return settled && by?.revision === saved.revision && sameValues(by.values, binding.used);
    },
    [settled, counted, saved.revision, binding.used],
  );
  const underWay = isOpen(state.run) ? state.run?.expected : undefined;
  const expected = useCallback((of: string) => underWay?.find((each) => each.step === of)?.rows, [underWay]);
  // Clause counts come behind the rows; until then those of the run before stand, marked as old.
  const [told, setTold] = useState<{ readonly step: string; readonly of: string; readonly clauses: ClauseCounts }>();
  const given = shown?.inspection === null && shown.clauses ? (shown.clauses as ClauseCounts) : undefined;
  if (shown && given && told?.clauses !== given) setTold({ step: shown.step, of: shown.id, clauses: given });
  const clauses = told?.step === step ? told.clauses : undefined;
  const clausesCurrent = current && told?.of === shown.id;
  const showFailed = useCallback(
    (field?: string) => inspect(field === undefined ? { kind: 'failed' } : { kind: 'failed', field }),
    [inspect],
  );
  const showOutcome = useCallback(
    (kept: JoinOutcome, words: string, key?: OutcomeKey) => inspect({ kind: 'outcome', outcome: kept, ...(key ? { key } : {}) }, words),
    [inspect],
  );
  const waits = obstacle === undefined && !starting && settled && !wish && !quick && !current && !state.open;
  return {
    current,
    counts: counted.counts,
    expected,
    countCurrent,
    clauses,
    clausesCurrent,
    waits,
    obstacle,
    run,
    showFailed,
    showOutcome,
    showMadeOf: inspect,
    outcome,
  };
}

/** What a row of a step that makes rows anew was made of. */
export type MadeOf = Inspection & { readonly kind: 'group' | 'line' };

/** Rows that are asked for in the place of a step's own, and the words that say which. */
interface Wish {
  readonly step: string;
  readonly inspection: Inspection;
  readonly words: string;
}

/** Counts by step, and the run each was told by. */
interface Counted {
  readonly from: readonly StepCountDto[] | undefined;
  readonly counts: Readonly<Record<string, StepCountDto>>;
  readonly by: Readonly<Record<string, Pick<RunDto, 'revision' | 'values'>>>;
}

const NOTHING_COUNTED: Counted = { from: undefined, counts: {}, by: {} };

function countedWith(known: Counted, { counts, revision, values }: RunDto): Counted {
  const told = counts ?? [];
  return {
    from: told,
    counts: { ...known.counts, ...Object.fromEntries(told.map((each) => [each.step, each])) },
    by: { ...known.by, ...Object.fromEntries(told.map((each) => [each.step, { revision, values }])) },
  };
}

/** Recorded values may leave out the tail of a very long list. */
function sameValues(recorded: GivenValues, used: GivenValues): boolean {
  return Object.entries(used).every(([id, values]) => {
    const known = recorded[id] ?? [];
    return values.length > 1_000 ? known.length === 1_001 && equal(known.slice(0, 1_000), values.slice(0, 1_000)) : equal(known, values);
  });
}
