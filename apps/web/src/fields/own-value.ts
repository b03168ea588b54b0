import type { RunDto } from '../api';
import { api } from '../api';
import { useAppSelector } from '../app/store';

/**
 * A value of a field in the rows of the dataset that came last, to show what a format does to it: of its least and its greatest
 * one the longer. Undefined while no rows of it are known.
 */
export function useOwnValue(dataset: string, field: string): string | undefined {
  const result = useAppSelector((state) => lastResultWith(Object.values(state.runs), dataset, field));
  const { data } = api.useResultsProfileQuery({ id: result ?? '', field }, { skip: result === undefined });
  const [first, second] = [data?.least ?? undefined, data?.greatest ?? undefined];
  return (first?.length ?? 0) > (second?.length ?? 0) ? first : second;
}

function lastResultWith(runs: readonly RunDto[], dataset: string, field: string): string | undefined {
  const having = runs.filter((each) => each.dataset === dataset && each.result?.columns.some(({ id }) => id === field));
  return having.toSorted((a, b) => (a.createdAt < b.createdAt ? 1 : -1))[0]?.result?.id;
}
