import { z } from 'zod';
import { idShape as id } from '../ids';
import { expressionTextShape } from '../criteria';
import type { ExpressionText } from '../expressions';

/** How the two sides of a pair are compared; `between` has two on the second side, both included. */
export const COMPARISONS = ['=', '<', '<=', '>', '>=', 'between'] as const;
export type PairComparison = (typeof COMPARISONS)[number];

/** Differences between texts that are overlooked on purpose. */
export const SWITCHES = ['blanks', 'case', 'zeros', 'number'] as const;
export type MatchSwitch = (typeof SWITCHES)[number];

/** What has to hold of two rows that meet: two sides compared, or a whole condition. */
export type JoinPair = ComparedPair | WrittenPair;

export interface ComparedPair {
  readonly id: string;
  readonly kind: 'compared';
  /** Over the fields of the first input. */
  readonly left: ExpressionText;
  readonly comparison: PairComparison;
  /** Over the fields of the second input, under the names they get here. */
  readonly right: ExpressionText;
  /** The upper end of `between`; else empty. */
  readonly until: ExpressionText;
  /** Of texts compared by `=`. */
  readonly overlooks: readonly MatchSwitch[];
  /** Null meets null; of `between`, an end that is null is open. */
  readonly nullsMeet: boolean;
}

export interface WrittenPair {
  readonly id: string;
  readonly kind: 'written';
  /** Over the fields of both. */
  readonly expression: ExpressionText;
}

export const pairShape: z.ZodType<JoinPair> = z.discriminatedUnion('kind', [
  z.strictObject({
    id,
    kind: z.literal('compared'),
    left: expressionTextShape,
    comparison: z.enum(COMPARISONS),
    right: expressionTextShape,
    until: expressionTextShape,
    overlooks: z.array(z.enum(SWITCHES)).max(SWITCHES.length),
    nullsMeet: z.boolean(),
  }),
  z.strictObject({ id, kind: z.literal('written'), expression: expressionTextShape }),
]);

export const NOTHING_WRITTEN: ExpressionText = { text: '', refs: [] };

/** A pair nothing is said of yet, besides what is given. */
export const comparedPair = (given: Pick<ComparedPair, 'id'> & Partial<ComparedPair>): ComparedPair => ({
  kind: 'compared',
  left: NOTHING_WRITTEN,
  comparison: '=',
  right: NOTHING_WRITTEN,
  until: NOTHING_WRITTEN,
  overlooks: [],
  nullsMeet: false,
  ...given,
});

/** The texts written in a pair. */
export function textsOfPair(pair: JoinPair): readonly ExpressionText[] {
  return pair.kind === 'written' ? [pair.expression] : [pair.left, pair.right, pair.until].filter(({ text }) => text !== '');
}

/** The pair with each of its texts made anew. */
export function withTexts(pair: JoinPair, change: (text: ExpressionText) => ExpressionText): JoinPair {
  if (pair.kind === 'written') return { ...pair, expression: change(pair.expression) };
  return { ...pair, left: change(pair.left), right: change(pair.right), until: change(pair.until) };
}
