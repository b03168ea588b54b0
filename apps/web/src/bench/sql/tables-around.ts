import type { Parameter, TableAround } from '@cendra/core';
import { columnsAskedOf, keysAskedOf, parametersIn, tablesIn, tokensOf } from '@cendra/core';
import { api } from '../../api';
import type { useAppDispatch } from '../../app/store';
import { describeTables } from '../describe-tables';
import { addressOf, MOST_TABLES } from './use-known';

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
  const described = async (all: Parameters<typeof describeTables>[2]) =>
    (await describeTables(dispatch, source, all)) as unknown as readonly TableAround[];
  const named = await described(tablesIn(tokensOf(text)).flatMap((each) => addressOf(each, tables)));
  const led = await described(keysAskedOf(columnsAskedOf(text, named)));
  return [...named, ...led.filter((each) => !named.some((other) => other.schema === each.schema && other.name === each.name))];
}
