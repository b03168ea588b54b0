import type { CatalogueTableDto } from '../api';
import { api } from '../api';
import type { Failure } from '../api/problem';
import { failureOf } from '../api/problem';
import { grouped } from '../ui/format';

export interface FoundTables {
  readonly tables: readonly CatalogueTableDto[];
  readonly asking: boolean;
  readonly failure: Failure | undefined;
}

/**
 * Tables of a source by parts of their names. What was found before is still there until the answer to what is typed
 * now arrives, as far as it suits: Enter must not take any that does not. An empty id asks nothing.
 */
export function useFoundTables(source: string, typed: string, most: number): FoundTables {
  const sought = typed.trim().toLowerCase();
  const { data, isFetching, error } = api.useSourcesTablesQuery({ id: source, search: sought, limit: most }, { skip: source === '' });
  const words = sought.split(/\s+/);
  const suits = ({ schema, name }: CatalogueTableDto) => words.every((each) => `${schema}.${name}`.toLowerCase().includes(each));
  return { tables: data?.tables.filter(suits) ?? [], asking: isFetching, failure: failureOf(error) };
}

/** `view of the source, ~310 rows`. */
export const tableWords = ({ view, estimate }: CatalogueTableDto, of = ''): string =>
  `${view ? 'view' : 'table'}${of}${estimate === null ? '' : `, ~${grouped(estimate)} rows`}`;
