import type { Span } from '../../problem';
import type { ExtractUnit } from '../../values';
import type { Expression } from '../expression';
import type { Calendar } from '../../values';
import type { Tree } from '../tree';

/**
 * What a function is built from: its operands, each checked for what it must be. A method that finds
 * something else notes a problem at the operand and gives undefined.
 */
export interface Operands {
  readonly count: number;
  readonly calendar: Calendar;
  any(index: number): Expression | undefined;
  number(index: number): Expression | undefined;
  whole(index: number): Expression | undefined;
  text(index: number): Expression | undefined;
  /** A date, a date-time, or an instant, which is given as its date-time in its zone. */
  day(index: number): Expression | undefined;
  /** A text written out in quotes. */
  writtenText(index: number, what: string): string | undefined;
  /** A whole number written out. */
  writtenWhole(index: number, what: string): number | undefined;
  /** Operands from `index` on, in the one type they have in common. */
  alike(index: number): readonly Expression[] | undefined;
  /** Two expressions in the type they are compared in. */
  compared(left: Expression, right: Expression, at: number): readonly [Expression, Expression] | undefined;
  unit(): ExtractUnit | undefined;
  tree(index: number): Tree | undefined;
  fail(code: string, message: string, at: number | Span, expected?: string): undefined;
}

export type FunctionGroup = 'numbers' | 'text' | 'dates' | 'patterns' | 'nulls' | 'other rows';

/** A function an analyst can write. Its documentation, completion and meaning come from here. */
export interface FunctionSpec {
  readonly name: string;
  readonly group: FunctionGroup;
  /** How it is written, with words for its operands. */
  readonly signature: string;
  /** What it gives, in a sentence without a subject. */
  readonly says: string;
  /** How many operands it takes. */
  readonly least: number;
  readonly most: number;
  build(operands: Operands): Expression | undefined;
}
