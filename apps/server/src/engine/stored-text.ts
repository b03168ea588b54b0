import { isOpen, openKey } from '@cendra/core';
import type { StoredColumn } from './messages';

/** Beside the fields, a result may carry the source's own text of values that fit no type, as JSON by field id. */
export const MARKS = 'cendra_marks';
/** The row number: identity of a row in a stored result. A sorted view keeps the one of its origin. */
export const ROW = 'cendra_row';

export const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;
export const literal = (value: string) => `'${value.replaceAll("'", "''")}'`;

/** SQL for the mark of a field. */
export const markOf = (id: string) => `json_extract_string(${MARKS}, ${literal(`$."${id}"`)})`;

/** SQL for a stored value's wire text, written as PostgreSQL writes it. */
export function storedText(column: StoredColumn): string {
  const name = quoted(column.id);
  return column.type.kind === 'float' ? floatText(name) : `cast(${name} as varchar)`;
}

/** Shortest digits; exponents from 1e15 on and below 1e-4, which is where PostgreSQL begins to use them. */
function floatText(name: string): string {
  const plain = `cast(${name} as varchar)`;
  const exponent = `regexp_replace(regexp_replace(${plain}, '^(-?\\d)(\\d{15})(?:\\.(\\d))?$', '\\1.\\2\\3e+15'), '\\.?0+e', 'e')`;
  return `case when isnan(${name}) then 'NaN' when isinf(${name}) then case when ${name} > 0 then 'Infinity' else '-Infinity' end when abs(${name}) >= 1e15 and abs(${name}) < 1e16 then ${exponent} else regexp_replace(${plain}, '\\.0$', '') end`;
}

/** SQL to order by: exact numbers where a number is kept as text, texts as a language has them, and by code point where it calls them equal. */
export function sortKeys(column: StoredColumn, language: string): readonly string[] {
  const name = quoted(column.id);
  if (column.type.kind === 'text') return [`icu_sort_key(${name}, ${literal(language)})`, name];
  return [isOpen(column.type) ? openKey(name) : name];
}
