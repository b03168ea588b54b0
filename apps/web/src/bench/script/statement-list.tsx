import type { KeyboardEvent } from 'react';
import type { ToldStatement } from '@cendra/core';
import { stateWords } from './words';

/** A statement of the text as it is now, with what was told of it when it ran. */
export interface ListedStatement {
  readonly number: number;
  readonly from: number;
  readonly to: number;
  /** Its first words. */
  readonly says: string;
  readonly told: ToldStatement | undefined;
}

interface StatementListProps {
  readonly statements: readonly ListedStatement[];
  readonly chosen: number | undefined;
  /** What was told is of this text and these values. */
  readonly current: boolean;
  onChoose(number: number): void;
  /** Runs the script up to a statement. */
  onRunTo(number: number): void;
}

/** The statements of a script in their order: what became of each, how many rows, in which time. Arrow keys move, Enter runs to there. */
export function StatementList({ statements, chosen, current, onChoose, onRunTo }: StatementListProps) {
  const moved = (event: KeyboardEvent<HTMLOListElement>) => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (step === 0) return;
    event.preventDefault();
    const at = statements.findIndex((each) => each.number === chosen);
    const next = statements[Math.max(0, Math.min(statements.length - 1, at + step))];
    if (!next) return;
    onChoose(next.number);
    event.currentTarget.querySelector<HTMLButtonElement>(`[data-number="${next.number}"]`)?.focus();
  };
  return (
    <ol aria-label="Statements" className="max-h-[42%] min-h-16 shrink-0 overflow-auto border-b" onKeyDown={moved}>
      {statements.map((each) => {
        const { number, says, told } = each;
        const isChosen = number === chosen;
        return (
          <li key={number}>
            <button
              type="button"
              data-number={number}
              aria-pressed={isChosen}
              tabIndex={isChosen || (chosen === undefined && number === 1) ? 0 : -1}
              onClick={() => onChoose(number)}
              onDoubleClick={() => onRunTo(number)}
              onKeyDown={(event) => {
                if (event.key !== 'Enter' || !isChosen) return;
                event.preventDefault();
                onRunTo(number);
              }}
              className={`flex h-row w-full items-center gap-2 border-l-2 px-2 text-left ${isChosen ? 'border-ember bg-panel' : 'border-transparent hover:bg-panel'}`}
            >
              <span className="figures w-5 shrink-0 text-right text-ink-soft">{number}</span>
              <StateMark state={told?.state ?? 'not run'} />
              <code className="min-w-0 flex-1 truncate font-mono text-meta">{says}</code>
              <span
                className={`figures shrink-0 text-meta ${told?.state === 'failed' ? 'text-rust' : current ? 'text-ink-soft' : 'text-ink-faint'}`}
              >
                {told ? stateWords(told) : 'not run'}
                {told && told.messages.length > 0 && `, ${told.messages.length} said`}
              </span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}

/** A short rule: whole where it ran, broken where it has not, crossed where it failed. The words beside it say the same. */
function StateMark({ state }: { readonly state: ToldStatement['state'] }) {
  const colour = state === 'failed' ? 'text-rust' : state === 'ran' ? 'text-ink' : 'text-ink-faint';
  return (
    <svg
      viewBox="0 0 12 12"
      width="12"
      height="12"
      aria-hidden
      className={`shrink-0 ${colour}`}
      fill="none"
      stroke="currentColor"
      strokeWidth="1.6"
    >
      {state === 'not run' ? <path d="M1 6h2.5M5 6h2M8.5 6H11" /> : <path d="M1 6h10" />}
      {state === 'failed' && <path d="M3.5 2.5l5 7" />}
    </svg>
  );
}
