import { Disclosure, DisclosureButton, DisclosurePanel, Input } from '@headlessui/react';
import { useState } from 'react';
import type { LetBe, Problem, Span, TextStep } from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import type { Bench } from '../use-bench';
import { letBeEdit, lettingBe } from './let-be';

interface TextProblemsProps {
  readonly id: string;
  readonly text: string;
  readonly problems: readonly Problem[];
  /** Exchanges a stretch of the text; left out where nothing may be changed. */
  readonly onExchange: ((change: Span & { readonly instead: string }) => void) | undefined;
  readonly onLetBe: ((problem: Problem, reason: string) => void) | undefined;
}

/** What is said of a text, each with its line, the engine's own words one click away, and the fix where there is one. */
export function TextProblems({ id, text, problems, onExchange, onLetBe }: TextProblemsProps) {
  return (
    <ul id={id} aria-label="What is said of the text" aria-live="polite" className="space-y-1 empty:hidden">
      {problems.map((problem, index) => (
        <ProblemOfText key={`${problem.code} ${index}`} text={text} problem={problem} onExchange={onExchange} onLetBe={onLetBe} />
      ))}
    </ul>
  );
}

interface ProblemOfTextProps extends Omit<TextProblemsProps, 'id' | 'problems'> {
  readonly problem: Problem;
}

function ProblemOfText({ text, problem, onExchange, onLetBe }: ProblemOfTextProps) {
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState('');
  const { position } = problem.place;
  const { instead } = problem;
  const keep = () => {
    if (reason.trim() !== '') onLetBe?.(problem, reason.trim());
  };
  return (
    <li className="flex flex-wrap items-start gap-2">
      {position && <span className="figures shrink-0 pt-px text-meta text-ink-soft">line {lineOf(text, position.from)}</span>}
      <div className="min-w-0 flex-1">
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
          {instead === '' ? 'Take it out' : 'Mend it'}
        </Button>
      )}
      {position && problem.severity !== 'error' && onLetBe && (
        <Button small kind="quiet" aria-expanded={asking} onClick={() => setAsking(!asking)}>
          Let it be …
        </Button>
      )}
      {asking && (
        <form
          className="flex w-full items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            keep();
          }}
        >
          <Input
            autoFocus
            aria-label="Why it may be"
            placeholder="why it may be"
            maxLength={500}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            className="h-6 flex-1 rounded border bg-paper px-2"
          />
          <Button small disabled={reason.trim() === ''} onClick={keep}>
            Let it be
          </Button>
        </form>
      )}
    </li>
  );
}

interface LetBeLinesProps {
  readonly lines: readonly LetBe[];
  readonly onTakeBack: ((line: LetBe) => void) | undefined;
}

/** Findings that are let be, with why. */
function LetBeLines({ lines, onTakeBack }: LetBeLinesProps) {
  if (lines.length === 0) return null;
  return (
    <Disclosure as="div" className="mt-1">
      <DisclosureButton className="text-meta text-ink-soft underline underline-offset-2">
        {lines.length === 1 ? 'One finding is let be' : `${lines.length} findings are let be`}
      </DisclosureButton>
      <DisclosurePanel as="ul">
        {lines.map((line, index) => (
          <li key={index} className="flex items-center gap-2 text-meta text-ink-soft">
            <code className="max-w-60 truncate font-mono">{line.words}</code> {line.reason}
            {onTakeBack && (
              <Button small kind="quiet" onClick={() => onTakeBack(line)}>
                Say it again
              </Button>
            )}
          </li>
        ))}
      </DisclosurePanel>
    </Disclosure>
  );
}

const lineOf = (text: string, at: number) => text.slice(0, at).split('\n').length;

interface SaidOfTextProps {
  readonly id: string;
  readonly bench: Bench;
  readonly step: TextStep;
  /** As it is written now. */
  readonly text: string;
  readonly problems: readonly Problem[];
  onExchange(change: Span & { readonly instead: string }): void;
}

/** What is said of a text below it, and the findings that are let be; both can be answered where the text may be changed. */
export function SaidOfText({ id, bench, step, text, problems, onExchange }: SaidOfTextProps) {
  const { letBe = [] } = step;
  const may = !bench.withoutValues;
  return (
    <>
      <TextProblems
        id={id}
        text={text}
        problems={problems}
        onExchange={may ? onExchange : undefined}
        onLetBe={may ? (each, reason) => bench.edit(lettingBe(step, text, each, reason)) : undefined}
      />
      <LetBeLines
        lines={letBe}
        onTakeBack={
          may
            ? (line) =>
                bench.edit(
                  letBeEdit(
                    step,
                    letBe.filter((each) => each !== line),
                  ),
                )
            : undefined
        }
      />
    </>
  );
}
