import { EmptyState, ProblemLine } from '../ui/notice';
import type { Bench } from './use-bench';

/** What the checks found, grouped by step; choosing one goes there. */
export function FindingsDrawer({ bench }: { readonly bench: Bench }) {
  const { trail, select } = bench;
  if (trail.problems.length === 0) return <EmptyState>Nothing was found.</EmptyState>;
  const groups = [
    ...trail.steps.map(({ step, title }) => ({ id: step.id as string | undefined, title })),
    { id: undefined, title: 'The dataset' },
  ];
  return (
    <div>
      {groups.map(({ id, title }) => {
        const found = trail.problems.filter((each) => each.place.step === id);
        if (found.length === 0) return null;
        return (
          <section key={id ?? 'dataset'} className="border-b px-3 py-2">
            <h3 className="font-medium">
              {id === undefined ? (
                title
              ) : (
                <button type="button" className="text-left underline-offset-2 hover:underline" onClick={() => select(id)}>
                  {title}
                </button>
              )}
            </h3>
            {found.map((problem, index) => (
              <ProblemLine key={index} problem={problem} />
            ))}
          </section>
        );
      })}
    </div>
  );
}
