import type { Relation } from '@cendra/core';
import { columnsOf, isLength, shortened } from '@cendra/core';

/** Characters of a text that are shown in a sample. */
const SHOWN = 300;

/** Some rows of a table, of its texts no more than is shown: however long they are, the source does not send the rest. */
export function sampled(table: Relation, rows: number): Relation {
  const first: Relation = { node: 'limit', input: table, count: rows };
  const { relation, columns } = shortened(first, columnsOf(table), SHOWN + 1);
  return { node: 'choose', input: relation, columns: columns.filter(({ id }) => !isLength(id)) };
}

const characters = new Intl.Segmenter();

/** What is shown of a text that came so; no character is cut in two, nor one off its accents. */
export function shownText(whole: string): string {
  if (Array.from(whole).length <= SHOWN) return whole;
  // The last one may be the beginning of a longer one.
  const parts = [...characters.segment(whole)].map((each) => each.segment).slice(0, -1);
  return `${parts.slice(0, SHOWN).join('')}…`;
}
