import { z } from 'zod';
import { idShape as id } from '../ids';
import type { ExpressionText } from '../expressions';

export const HEADS = ['every one', 'at least one', 'none'] as const;
export type Head = (typeof HEADS)[number];

const typed = z.string().max(20_000);

export const expressionTextShape: z.ZodType<ExpressionText> = z.strictObject({
  text: typed,
  refs: z.array(z.strictObject({ kind: z.enum(['field', 'parameter']), id, from: z.int().min(0), to: z.int().min(0) })).max(5_000),
});

/**
 * What a condition compares its field with: a typed value in wire form or a relative date, a parameter, another field,
 * or an expression. One relative stretch gives both ends of a range.
 */
export type Operand =
  | { readonly kind: 'value'; readonly text: string }
  | { readonly kind: 'parameter'; readonly id: string }
  | { readonly kind: 'field'; readonly id: string }
  | { readonly kind: 'expression'; readonly expression: ExpressionText };

export interface Condition {
  readonly id: string;
  readonly kind: 'condition';
  /** Switched off by the analyst: stays written, asks nothing. */
  readonly off: boolean;
  /** The field id; empty while the slot is not filled. */
  readonly field: string;
  readonly operator: string;
  readonly operands: readonly Operand[];
  readonly andNulls: boolean;
}

export interface WrittenClause {
  readonly id: string;
  readonly kind: 'expression';
  readonly off: boolean;
  readonly expression: ExpressionText;
}

export interface ClauseGroup {
  readonly id: string;
  readonly kind: 'group';
  readonly off: boolean;
  readonly head: Head;
  readonly clauses: readonly Clause[];
}

export type Clause = Condition | WrittenClause | ClauseGroup;

const operandShape = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('value'), text: z.string().max(10_000) }),
  z.strictObject({ kind: z.literal('parameter'), id }),
  z.strictObject({ kind: z.literal('field'), id }),
  z.strictObject({ kind: z.literal('expression'), expression: expressionTextShape }),
]);

export const clauseShape: z.ZodType<Clause> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.strictObject({
      id,
      kind: z.literal('condition'),
      off: z.boolean(),
      field: z.string().max(64),
      operator: z.string().max(40),
      operands: z.array(operandShape).max(10_000),
      andNulls: z.boolean(),
    }),
    z.strictObject({ id, kind: z.literal('expression'), off: z.boolean(), expression: expressionTextShape }),
    z.strictObject({ id, kind: z.literal('group'), off: z.boolean(), head: z.enum(HEADS), clauses: z.array(clauseShape).max(100) }),
  ]),
);

/** How deep groups stand inside one another; a condition is 0. */
export function depthOf(clause: Clause): number {
  return clause.kind === 'group' ? 1 + Math.max(0, ...clause.clauses.map(depthOf)) : 0;
}

/** Groups stand at most this deep: beyond two levels of numbers a clause is written as an expression. */
export const MOST_DEPTH = 1;

/** One line of a criteria step: a clause under its number, such as 2.1. */
export interface ClauseLine {
  readonly clause: Clause;
  readonly number: string;
  /** The head it stands under. */
  readonly head: Head;
  /** Ids of the groups it stands in, the outermost first. */
  readonly within: readonly string[];
}

/** The clauses in reading order, numbered. */
export function clauseLines(head: Head, clauses: readonly Clause[], before = '', within: readonly string[] = []): readonly ClauseLine[] {
  return clauses.flatMap((clause, index): readonly ClauseLine[] => {
    const number = `${before}${index + 1}`;
    const line = { clause, number, head, within };
    return clause.kind === 'group' ? [line, ...clauseLines(clause.head, clause.clauses, `${number}.`, [...within, clause.id])] : [line];
  });
}

/** The clause and, for a group, all clauses inside it. */
export function clausesWithin(clause: Clause): readonly Clause[] {
  return clause.kind === 'group' ? [clause, ...clause.clauses.flatMap(clausesWithin)] : [clause];
}
