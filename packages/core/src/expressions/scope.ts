import type { Schema } from '../fields';
import type { Parameter } from '../parameters';
import type { Calendar } from '../values';
import type { Budget } from './budget';
import type { Reference } from './expression';

/** A field an expression may name and cannot use. */
export interface AbsentField {
  readonly id: string;
  readonly name: string;
  readonly code: string;
  readonly message: string;
  readonly expected: string;
}

/** What names an expression may use at its place in the trail. */
export interface Scope {
  readonly schema: Schema;
  readonly parameters: readonly Parameter[];
  /** Left out: weeks from Monday, years from January. */
  readonly calendar?: Calendar;
  /** Why values of other rows cannot be used at this place; left out where they can. */
  readonly withoutOtherRows?: string;
  /** Fields that are there by name and cannot be used at this place, with why. */
  readonly absent?: readonly AbsentField[];
  /** What its names are of, where that is no field: the word for one, and all of them by name. */
  readonly naming?: { readonly word: string; readonly names: readonly string[] };
  /** Spans of the text whose meaning is already fixed by id. */
  readonly refs?: readonly Reference[];
  /** What the definition's expressions may still come to; left out for one that stands alone. */
  readonly budget?: Budget;
}
