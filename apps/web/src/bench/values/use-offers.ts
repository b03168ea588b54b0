import type { Choice, FoundValue, FoundValues, Question } from '@cendra/core';
import type { Failure } from '../../api/problem';
import { useAnswer } from '../../runs/use-answer';
import type { Bench } from '../use-bench';

/** Where a slot's offers come from: values that arrive at a clause, a parameter's choices, or none. */
export type Offered =
  | { readonly from: 'step'; readonly step: string; readonly field: string; readonly clause: string }
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

/**
 * Values that contain what is typed; `open` is whether they are wanted at all. Where all there are were found once,
 * they are looked through here; only of very many the source is asked for those with the typed part.
 */
export function useOffers(bench: Bench, offered: Offered, typed: string, open: boolean): Offers {
  const wanted = open && !bench.withoutValues;
  const part = typed.trim().toLowerCase();
  const all = useAnswer(bench, wanted ? questionOf(offered, '') : undefined);
  const sought = part !== '' && all.answer?.more === true;
  const some = useAnswer(bench, wanted && sought ? questionOf(offered, typed) : undefined, REST);
  const known: FoundValues =
    offered?.from === 'typed' ? { values: offered.items.map((each) => ({ ...each, rows: '' })), more: false } : (all.answer ?? NONE);
  const here = part === '' ? known : { ...known, values: known.values.filter((each) => contains(each, part)) };
  return {
    found: (sought ? some.answer : undefined) ?? here,
    waiting: all.waiting || some.waiting,
    failure: all.failure ?? some.failure,
  };
}

const contains = ({ value, label }: FoundValue, part: string) => `${value}\n${label}`.toLowerCase().includes(part);

function questionOf(offered: Offered, typed: string): (Question & { readonly kind: 'values' | 'choices' }) | undefined {
  const search = typed.slice(0, 200);
  if (offered?.from === 'step') return { kind: 'values', step: offered.step, field: offered.field, clause: offered.clause, search };
  return offered?.from === 'choices' ? { kind: 'choices', parameter: offered.parameter, search } : undefined;
}
