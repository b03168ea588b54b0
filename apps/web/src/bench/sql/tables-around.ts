import type { Parameter, TableAround } from '@cendra/core';
import { columnsAskedOf, keysAskedOf, parametersIn, tablesIn, tokensOf } from '@cendra/core';
import { api } from '../../api';
import type { useAppDispatch } from '../../app/store';
import { addressOf, MOST_DESCRIBED, MOST_TABLES } from './use-known';

/**
 * The tables a text names and those the keys of its parameters lead to, for what new parameters are offered. None where the
 * text has no new ones; tables that cannot be described are missing.
 */
export async function tablesAround(
  dispatch: ReturnType<typeof useAppDispatch>,
  source: string,
  text: string,
  parameters: readonly Pick<Parameter, 'name'>[],
): Promise<readonly TableAround[]> {
  const known = new Set(parameters.map((each) => each.name));
  if (parametersIn(text).every((each) => known.has(each.name))) return [];
  const listing = dispatch(api.endpoints.sourcesTables.initiate({ id: source, search: '', limit: MOST_TABLES }));
  const tables = (await listing).data?.tables ?? [];
  listing.unsubscribe();
  const describe = async (all: readonly { readonly schema: string; readonly name: string }[]): Promise<readonly TableAround[]> => {
    const distinct = [...new Map(all.map((each) => [`${each.schema}.${each.name}`, each])).values()].slice(0, MOST_DESCRIBED);
    const asked = distinct.map(({ schema, name }) => dispatch(api.endpoints.sourcesDescribe.initiate({ id: source, schema, table: name })));
    const answers = await Promise.all(asked.map((each) => each.then(({ data }) => data)));
    for (const each of asked) each.unsubscribe();
    return answers.flatMap((each) => (each ? [each as unknown as TableAround] : []));
  };
  const named = await describe(tablesIn(tokensOf(text)).flatMap((each) => addressOf(each, tables)));
  const led = await describe(keysAskedOf(columnsAskedOf(text, named)));
  return [...named, ...led.filter((each) => !named.some((other) => other.schema === each.schema && other.name === each.name))];
}
