import { useEffect, useMemo, useState } from 'react';
import type { Parameter, TableNamed } from '@cendra/core';
import { tablesIn, tokensOf } from '@cendra/core';
import type { DescribedTableDto } from '../../api';
import { api } from '../../api';
import { useAppDispatch } from '../../app/store';
import type { Known } from './completion';

/** So many tables are offered, and so many of those in a text are asked about. */
export const MOST_TABLES = 1_000;
export const MOST_DESCRIBED = 40;

/** What is known of a source while a text is written: its tables, and the columns of those the text names. */
export function useKnown(parameters: readonly Parameter[], source: string, text: string): Known & { readonly away: boolean } {
  const listed = api.useSourcesTablesQuery({ id: source, search: '', limit: MOST_TABLES });
  const tables = useMemo(() => listed.data?.tables ?? [], [listed.data]);
  const wanted = useMemo(() => {
    const found = tablesIn(tokensOf(text)).flatMap((each) => addressOf(each, tables));
    return [...new Map(found.map((each) => [`${each.schema}.${each.name}`, each])).values()].slice(0, MOST_DESCRIBED);
  }, [text, tables]);
  const key = wanted.map((each) => `${each.schema}.${each.name}`).join('\n');
  const dispatch = useAppDispatch();
  const [described, setDescribed] = useState<readonly DescribedTableDto[]>([]);
  useEffect(() => {
    let current = true;
    const asked = wanted.map(({ schema, name }) => dispatch(api.endpoints.sourcesDescribe.initiate({ id: source, schema, table: name })));
    // Those that cannot be described are only missing.
    void Promise.all(asked.map((each) => each.then(({ data }) => data))).then((all) => {
      if (current) setDescribed(all.flatMap((each) => each ?? []));
    });
    return () => {
      current = false;
      for (const each of asked) each.unsubscribe();
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- The same tables are not asked about again at every key.
  }, [key, source, dispatch]);
  return useMemo(() => ({ tables, described, parameters, away: listed.isError }), [tables, described, parameters, listed.isError]);
}

/** The table of the source a name in a text means; none where it has no such. */
export function addressOf({ schema, table }: TableNamed, tables: Known['tables']) {
  return tables.find((each) => each.name === table && (schema === undefined || each.schema === schema)) ?? [];
}
