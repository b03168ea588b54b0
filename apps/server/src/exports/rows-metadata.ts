import type { FieldType } from '@cendra/core';
import { uniqueNames } from '@cendra/core';
import type { About, WrittenColumn } from '../engine';
import { csvName } from '../engine';

/**
 * What rows are and what their columns hold, for files that have no place for it: as W3C’s “Metadata Vocabulary for Tabular
 * Data” has it for the CSV of these rows, which a reader of that vocabulary finds under the CSV’s name.
 */
export function rowsMetadata(csv: string, language: string, about: About, columns: readonly WrittenColumn[]): string {
  const names = uniqueNames(columns.map((each) => each.name)).map(csvName);
  const told = {
    '@context': ['http://www.w3.org/ns/csvw', { '@language': language }],
    url: csv,
    notes: about.map(([word, said]) => ({ 'schema:name': word, 'schema:description': said })),
    dialect: { header: true, quoteChar: '"', doubleQuote: true },
    tableSchema: {
      columns: columns.map(({ label, type }, index) => ({ titles: names[index], 'dc:title': label, datatype: datatypeOf(type) })),
    },
  };
  return `${JSON.stringify(told, undefined, 2)}\n`;
}

/** Its types; days and times as CSV writes them. What fits no type stands in a CSV as its source has it, so nothing is promised of length. */
function datatypeOf(type: FieldType): string | { readonly base: string; readonly format: string } {
  switch (type.kind) {
    case 'whole':
      return 'integer';
    case 'decimal':
      return 'decimal';
    case 'float':
      return 'double';
    case 'yesno':
      return { base: 'boolean', format: 'true|false' };
    case 'date':
    case 'time':
    case 'json':
      return type.kind;
    case 'datetime':
      return { base: 'dateTime', format: 'yyyy-MM-dd HH:mm:ss.SSSSSS' };
    case 'instant':
      return { base: 'dateTimeStamp', format: 'yyyy-MM-dd HH:mm:ss.SSSSSSX' };
    case 'text':
      return 'string';
  }
}
