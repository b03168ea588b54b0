import { lazy, Suspense } from 'react';
import type { ClauseCounts } from '@cendra/core';
import type { StepCountDto } from '../api';
import { EmptyState, ProblemLine } from '../ui/notice';
import { TableEditor } from './table-editor';
import type { Bench } from './use-bench';

const CriteriaEditor = lazy(() => import('./criteria/criteria-editor'));
const CalculateEditor = lazy(() => import('./calculate/calculate-editor'));

interface StepEditorProps {
  readonly bench: Bench;
  readonly counts: Readonly<Record<string, StepCountDto>>;
  /** Clause counts of the rows shown, where the step is one of criteria. */
  readonly clauses: ClauseCounts | undefined;
  readonly countsCurrent: boolean;
  readonly onFailed: (field?: string) => void;
}

/** The editor of the selected step, with what is wrong with the step as a whole above it. One line per kind. */
export function StepEditor({ bench, counts, clauses, countsCurrent, onFailed }: StepEditorProps) {
  const { selected } = bench;
  if (!selected) return <EmptyState>This dataset has no step.</EmptyState>;
  const { step, problems } = selected;
  const general = problems.filter(({ place, severity }) => place.clause === undefined && severity !== 'hint' && step.kind !== 'calculate');
  return (
    <section aria-label={`Step ${selected.title}`} className="h-full overflow-auto">
      {general.length > 0 && (
        <div role="alert" className="space-y-1 border-b px-3 py-2">
          {general.map((problem, index) => (
            <ProblemLine key={index} problem={problem} />
          ))}
        </div>
      )}
      {step.kind === 'table' && <TableEditor key={step.id} bench={bench} step={step} />}
      {step.kind === 'calculate' && (
        <Suspense fallback={<p className="px-3 py-2 text-ink-soft">Opening the editor …</p>}>
          <CalculateEditor key={step.id} bench={bench} checked={selected} step={step} count={counts[step.id]} onFailed={onFailed} />
        </Suspense>
      )}
      {step.kind === 'criteria' && (
        <Suspense fallback={<p className="px-3 py-2 text-ink-soft">Opening the editor …</p>}>
          <CriteriaEditor key={step.id} bench={bench} checked={selected} step={step} counts={clauses} countsCurrent={countsCurrent} />
        </Suspense>
      )}
    </section>
  );
}
