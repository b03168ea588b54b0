import { EmptyState, ProblemLine } from '../ui/notice';
import { CriteriaEditor } from './criteria-editor';
import { TableEditor } from './table-editor';
import type { Bench } from './use-bench';

/** The editor of the selected step, with what is wrong with the step as a whole above it. One line per kind. */
export function StepEditor({ bench }: { readonly bench: Bench }) {
  const { selected } = bench;
  if (!selected) return <EmptyState>This dataset has no step.</EmptyState>;
  const { step, problems } = selected;
  const general = problems.filter((each) => each.place.clause === undefined && each.severity !== 'hint');
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
      {step.kind === 'criteria' && <CriteriaEditor key={step.id} bench={bench} checked={selected} step={step} />}
    </section>
  );
}
