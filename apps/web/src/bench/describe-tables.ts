import type { DescribedTableDto } from '../api';
import { api } from '../api';
import type { useAppDispatch } from '../app/store';

/** So many tables at once. */
const MOST_DESCRIBED = 40;

/** Tables of a source as it describes them, each once and as far as they are known already without asking; those that cannot be described are missing. */
export async function describeTables(
  dispatch: ReturnType<typeof useAppDispatch>,
  source: string,
  tables: readonly { readonly schema: string; readonly name: string }[],
): Promise<readonly DescribedTableDto[]> {
  const distinct = [...new Map(tables.map((each) => [`${each.schema}.${each.name}`, each])).values()].slice(0, MOST_DESCRIBED);
  const asked = distinct.map(({ schema, name }) => dispatch(api.endpoints.sourcesDescribe.initiate({ id: source, schema, table: name })));
  const answers = await Promise.all(asked.map((each) => each.then(({ data }) => data)));
  for (const each of asked) each.unsubscribe();
  return answers.flatMap((each) => each ?? []);
}
