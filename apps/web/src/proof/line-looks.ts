import type { ProofColumn, ProofTable, ReadLine } from '@cendra/core';
import { lookOf, marksOf } from '@cendra/core';

const MARKS = {
  strong: 'font-bold',
  faint: 'text-ink-faint italic',
  boxed: 'outline-1 -outline-offset-3 outline-ink',
  lettered: '',
  good: 'text-moss',
  poor: 'text-rust',
} as const;

/** How a marked cell looks on the screen, and its letters. */
export function markedLook(line: ReadLine, column: ProofColumn, table: ProofTable): { readonly look: string; readonly letters: string } {
  const { looks, letters } = marksOf(line, column, table);
  return { look: looks.map((each) => MARKS[each]).join(' '), letters };
}

const LINES = {
  header: 'border-b font-medium',
  row: 'border-b border-line',
  totals: 'border-t border-ink-faint font-medium',
  'further totals': 'font-medium',
  'grand total': 'border-t-3 border-double border-ink font-medium',
} as const;

/** Totals close a group with a rule above them, and everything with two. */
export const lineLook = (line: ReadLine | undefined, layout: ProofTable['layout']): string => LINES[lookOf(line, layout)];
