import type { Choice, FoundValues, Question } from '@cendra/core';
import type { Failure } from '../../api/problem';
import { useAnswer } from '../../runs/use-answer';
import type { Bench } from '../use-bench';

/** Where a slot's offers come from: values that arrive at a step, a parameter's choices, or none. */
export type Offered =
  | { readonly from: 'step'; readonly step: string; readonly field: string }
  | { readonly from: 'choices'; readonly parameter: string }
  | { readonly from: 'typed'; readonly items: readonly Choice[] }
  | undefined;

export interface Offers {
  readonly found: FoundValues;
  readonly waiting: boolean;
  readonly failure: Failure | undefined;
}

/** Milliseconds typing rests before the source is asked. */
const REST = 150;
const NONE: FoundValues = { values: [], more: false };

/** Values that contain what is typed, looked for where they are; `open` is whether they are wanted at all. */
export function useOffers(bench: Bench, offered: Offered, typed: string, open: boolean): Offers {
  const asked = open && !bench.withoutValues ? questionOf(offered, typed) : undefined;
  const { answer, failure, waiting } = useAnswer(bench, asked, typed === '' ? 0 : REST);
  if (offered?.from !== 'typed') return { found: answer ?? NONE, waiting, failure };
  const part = typed.trim().toLowerCase();
  const values = offered.items
    .filter(({ value, label }) => `${value} ${label}`.toLowerCase().includes(part))
    .map((each) => ({ ...each, rows: '' }));
  return { found: { values, more: false }, waiting: false, failure: undefined };
}

function questionOf(offered: Offered, typed: string): (Question & { readonly kind: 'values' | 'choices' }) | undefined {
  const search = typed.slice(0, 200);
  if (offered?.from === 'step') return { kind: 'values', step: offered.step, field: offered.field, search };
  return offered?.from === 'choices' ? { kind: 'choices', parameter: offered.parameter, search } : undefined;
}
