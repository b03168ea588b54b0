import type { Relation } from '@cendra/core';
import { call, cast, columnsOf, text, valueOf, wholeLiteral } from '@cendra/core';

/** Characters of a text that are shown in a sample. */
const SHOWN = 300;

/** Some rows of a table, of its texts no more than is shown: however long they are, the source does not send the rest. */
export function sampled(table: Relation, rows: number): Relation {
  const columns = columnsOf(table);
  const shortened = new Map(
    columns
      .filter(({ type }) => type.kind === 'text' || type.kind === 'json')
      .map((column) => [column.id, { id: `${column.id} shortened`, name: column.name, type: text, of: column }]),
  );
  const made: Relation = {
    node: 'calculate',
    input: { node: 'limit', input: table, count: rows },
    kept: columns.flatMap(({ id }) => (shortened.has(id) ? [] : [id])),
    fields: [...shortened.values()].map(({ of, ...column }) => ({
      ...column,
      expression: call('substring', text, cast(valueOf(of), text), wholeLiteral(1), wholeLiteral(SHOWN + 1)),
    })),
  };
  const asTable = columns.map(({ id, name, type }) => shortened.get(id) ?? { id, name, type });
  return { node: 'choose', input: made, columns: asTable.map(({ id, name, type }) => ({ id, name, type })) };
}

const characters = new Intl.Segmenter();

/** What is shown of a text that came so; no character is cut in two, nor one off its accents. */
export function shownText(whole: string): string {
  if (Array.from(whole).length <= SHOWN) return whole;
  // The last one may be the beginning of a longer one.
  const parts = [...characters.segment(whole)].map((each) => each.segment).slice(0, -1);
  return `${parts.slice(0, SHOWN).join('')}…`;
}
