import type { FieldType } from '../fields';
import { isDay } from '../fields';
import type { ComparedPair, JoinPair, MatchSwitch, PairComparison } from './pair';

const WORDS: Record<PairComparison, string> = {
  '=': 'equals',
  '<': 'is below',
  '<=': 'is at most',
  '>': 'is above',
  '>=': 'is at least',
  between: 'lies between',
};
const DAY_WORDS: Partial<Record<PairComparison, string>> = {
  '<': 'is before',
  '<=': 'is on or before',
  '>': 'is after',
  '>=': 'is on or after',
};

/** A comparison as the sentence says it; of days in words of time. */
export const comparisonWords = (comparison: PairComparison, type?: FieldType): string =>
  (type && isDay(type) ? DAY_WORDS[comparison] : undefined) ?? WORDS[comparison];

const SWITCH_WORDS: Record<MatchSwitch, string> = {
  blanks: 'blanks around it',
  case: 'upper and lower case',
  zeros: 'leading zeros',
  number: 'how a number is written',
};
export const switchWords = (each: MatchSwitch): string => SWITCH_WORDS[each];

const listed = (items: readonly string[]) => (items.length > 1 ? `${items.slice(0, -1).join(', ')} and ${items.at(-1)}` : (items[0] ?? ''));

/** What is overlooked, in words; empty where nothing is. */
export function overlooksWords({ overlooks, nullsMeet, comparison }: ComparedPair): string {
  const nulls = nullsMeet ? [comparison === 'between' ? 'open where an end is null' : 'null meets null'] : [];
  const some = overlooks.length > 0 ? [`whatever ${listed(overlooks.map(switchWords))}`] : [];
  return [...some, ...nulls].join(', ');
}

const shown = (text: string, nothing: string) => text.replace(/\s+/g, ' ').trim() || nothing;

/** A pair as the sentence says it. */
export function pairWords(pair: JoinPair): string {
  if (pair.kind === 'written') return shown(pair.expression.text, 'something holds');
  const right = shown(pair.right.text, '…');
  const other = pair.comparison === 'between' ? `${right} and ${shown(pair.until.text, '…')}` : right;
  const extra = overlooksWords(pair);
  return `${shown(pair.left.text, '…')} ${comparisonWords(pair.comparison)} ${other}${extra === '' ? '' : ` (${extra})`}`;
}

export { listed as listedWords };
