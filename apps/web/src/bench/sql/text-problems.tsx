import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react';
import type { Problem, Span } from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';

interface TextProblemsProps {
  readonly id: string;
  readonly text: string;
  readonly problems: readonly Problem[];
  /** Exchanges a stretch of the text; left out where nothing may be changed. */
  readonly onExchange: ((change: Span & { readonly instead: string }) => void) | undefined;
}

/** What is wrong with a text, each with its line, the engine's own words one click away, and the fix where there is one. */
export function TextProblems({ id, text, problems, onExchange }: TextProblemsProps) {
  return (
    <ul id={id} aria-label="What is said of the text" aria-live="polite" className="mb-2 space-y-1 empty:hidden">
      {problems.map((problem, index) => {
        const { position } = problem.place;
        const { instead } = problem;
        return (
          <li key={index} className="flex items-start gap-2">
            {position && <span className="figures shrink-0 text-meta text-ink-soft">line {lineOf(text, position.from)}</span>}
            <div className="min-w-0">
              <ProblemLine problem={problem} />
              {problem.detail !== undefined && (
                <Disclosure>
                  <DisclosureButton className="text-meta text-ink-soft underline underline-offset-2">Its own message</DisclosureButton>
                  <DisclosurePanel className="font-mono text-meta break-words whitespace-pre-wrap text-ink-soft">
                    {problem.detail}
                  </DisclosurePanel>
                </Disclosure>
              )}
            </div>
            {position && instead !== undefined && onExchange && (
              <Button small onClick={() => onExchange({ ...position, instead })}>
                Mend it
              </Button>
            )}
          </li>
        );
      })}
    </ul>
  );
}

const lineOf = (text: string, at: number) => text.slice(0, at).split('\n').length;
