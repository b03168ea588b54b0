import { Suspense } from 'react';
import type { CheckedStep } from '@cendra/core';
import { EmptyState, ProblemLine } from '../ui/notice';
import type { StepEditorProps } from './step-kind';
import { BENCH_KINDS } from './step-kinds';

interface Props extends Omit<StepEditorProps, 'checked'> {
  readonly checked: CheckedStep | undefined;
}

/** The editor of the selected step, with what is wrong with the step as a whole above it. */
export function StepEditor({ checked, ...props }: Props) {
  if (!checked) return <EmptyState>This dataset has no step.</EmptyState>;
  const { step, problems } = checked;
  const { Editor, showsProblems } = BENCH_KINDS[step.kind];
  const general = problems.filter(({ place, severity }) => place.clause === undefined && severity !== 'hint' && !showsProblems);
  return (
    <section aria-label={`Step ${checked.title}`} className="h-full overflow-auto">
      {general.length > 0 && (
        <div role="alert" className="space-y-1 border-b px-3 py-2">
          {general.map((problem, index) => (
            <ProblemLine key={index} problem={problem} />
          ))}
        </div>
      )}
      <Suspense fallback={<p className="px-3 py-2 text-ink-soft">Opening the editor …</p>}>
        <Editor key={step.id} checked={checked} {...props} />
      </Suspense>
    </section>
  );
}
