import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react';
import { CircleAlert, Info, TriangleAlert } from 'lucide-react';
import type { Problem } from '@cendra/core';
import type { Failure } from '../api/problem';

const LOOK = {
  error: { icon: CircleAlert, colour: 'text-rust', word: 'Error' },
  warning: { icon: TriangleAlert, colour: 'text-amber', word: 'Warning' },
  hint: { icon: Info, colour: 'text-ink-soft', word: 'Hint' },
};

/** One problem in place: what happened, and what was expected. */
export function ProblemLine({ problem }: { readonly problem: Pick<Problem, 'severity' | 'message' | 'expected'> }) {
  const { icon: Icon, colour, word } = LOOK[problem.severity];
  return (
    <p className={`flex items-start gap-1.5 ${colour}`}>
      <Icon size={16} strokeWidth={1.75} aria-hidden className="mt-px shrink-0" />
      <span>
        <span className="sr-only">{word}: </span>
        {problem.message}
        {problem.expected !== undefined && <span className="text-ink-soft"> {expectedWords(problem.expected)}</span>}
      </span>
    </p>
  );
}

/** What was expected as a sentence; a question stands for itself. */
function expectedWords(expected: string): string {
  return expected.endsWith('?') ? `${expected.charAt(0).toUpperCase()}${expected.slice(1)}` : `Expected: ${expected}.`;
}

/** A failed request where it belongs; the engine's own message is one click away. */
export function FailureNotice({ failure }: { readonly failure: Failure | undefined }) {
  if (!failure) return null;
  return (
    <div role="alert" className="space-y-1">
      {failure.problems.map((problem, index) => (
        <ProblemLine key={index} problem={problem} />
      ))}
      {failure.detail !== undefined && (
        <Disclosure>
          <DisclosureButton className="text-meta text-ink-soft underline underline-offset-2">Its own message</DisclosureButton>
          <DisclosurePanel className="font-mono text-meta break-words whitespace-pre-wrap text-ink-soft">{failure.detail}</DisclosurePanel>
        </Disclosure>
      )}
    </div>
  );
}

/** An empty place that says what to do next. */
export function EmptyState({ children, action }: { readonly children: React.ReactNode; readonly action?: React.ReactNode }) {
  return (
    <div className="flex flex-col items-start gap-3 px-4 py-6 text-ink-soft">
      <p>{children}</p>
      {action}
    </div>
  );
}
