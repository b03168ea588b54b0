export interface SortBy {
  readonly field: string;
  readonly descending: boolean;
}

/** As the address of a page of rows carries it; undefined where rows come as they are. */
export function sortText(sort: readonly SortBy[]): string | undefined {
  return sort.length === 0 ? undefined : sort.map(({ field, descending }) => `${field}:${descending ? 'desc' : 'asc'}`).join(',');
}
