import type { RunDto } from '../api';
import { api } from '../api';
import { useAppSelector } from '../app/store';
import type { Page } from '../bench/rows/use-pages';
import { PAGE } from '../bench/rows/use-pages';

/**
 * A value of a field in the rows of the dataset that came last, to show what a format does to it: the longest of the first
 * page, which the bench has read already. Undefined while no rows of it are known.
 */
export function useOwnValue(dataset: string, field: string): string | undefined {
  const result = useAppSelector((state) => lastResultWith(Object.values(state.runs), dataset, field));
  const page = api.useResultsRowsQuery({ id: result?.id ?? '', offset: 0, limit: PAGE }, { skip: result === undefined }).currentData;
  const at = result?.columns.findIndex(({ id }) => id === field) ?? -1;
  // A row begins with its number.
  const values = ((page ?? []) as unknown as Page).flatMap((row) => row[at + 1] ?? []).filter((cell) => typeof cell === 'string');
  return values.reduce<string | undefined>((longest, each) => (each.length > (longest?.length ?? 0) ? each : longest), undefined);
}

function lastResultWith(runs: readonly RunDto[], dataset: string, field: string) {
  const having = runs.filter((each) => each.dataset === dataset && each.result?.columns.some(({ id }) => id === field));
  return having.toSorted((a, b) => (a.createdAt < b.createdAt ? 1 : -1))[0]?.result ?? undefined;
}
