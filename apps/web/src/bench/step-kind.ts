import type { ComponentType } from 'react';
import type { CheckedStep, ClauseCounts, Edit, JoinOutcome, OutcomeKey, Mint } from '@cendra/core';
import type { StepCountDto } from '../api';
import type { Bench } from './use-bench';

/** What the editor of any kind of step is given. */
export interface StepEditorProps {
  readonly bench: Bench;
  readonly checked: CheckedStep;
  readonly counts: Readonly<Record<string, StepCountDto>>;
  /** Clause counts of the rows shown, where the step is one of criteria. */
  readonly clauses: ClauseCounts | undefined;
  readonly countsCurrent: boolean;
  readonly onFailed: (field?: string) => void;
  /** Shows the rows of a line of a join's ledger, or of one key of it; `words` say which they are. */
  readonly onOutcome: (outcome: JoinOutcome, words: string, key?: OutcomeKey) => void;
}

/** How a kind is offered behind the selected step, and what choosing it does. */
export type Adding = {
  readonly word: string;
  readonly says: string;
} & (Beginning | Choosing);

/** It asks first, in a dialog. */
export interface Choosing {
  readonly Choose: ComponentType<ChoosingProps>;
}

export interface ChoosingProps {
  readonly bench: Bench;
  readonly after: CheckedStep;
  onDone(): void;
}

export interface Beginning {
  /** The edits that add it, and the step to select then. */
  begin(
    mint: Mint,
    definition: Bench['trail']['definition'],
    after: CheckedStep,
  ): { readonly edits: readonly Edit[]; readonly step: string };
}

/** A kind of step on the bench. */
export interface BenchKind {
  readonly Editor: ComponentType<StepEditorProps>;
  /** Left out where a step of the kind does not stand behind another one. */
  readonly adding?: Adding;
  /** What its trail line says beneath its kind, told with how many rows a step gives; left out where it is nothing. */
  note?(checked: CheckedStep, rowsOf: (step: string) => string | undefined): string | undefined;
  /** The editor shows what is wrong at its place, so that it is not told above it too. */
  readonly showsProblems?: boolean;
}
