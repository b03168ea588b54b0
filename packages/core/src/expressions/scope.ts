import type { Schema } from '../fields';
import type { Parameter } from '../parameters';
import type { Reference } from './expression';

/** What names an expression may use at its place in the trail. */
export interface Scope {
  readonly schema: Schema;
  readonly parameters: readonly Parameter[];
  /** Spans of the text whose meaning is already fixed by id. */
  readonly refs?: readonly Reference[];
}
