import { useEffect, useMemo, useState } from 'react';
import type { Parameter, TableNamed } from '@cendra/core';
import { tablesIn, tokensOf } from '@cendra/core';
import type { DescribedTableDto } from '../../api';
import { api } from '../../api';
import { useAppDispatch } from '../../app/store';
import { describeTables } from '../describe-tables';
import type { Known } from './completion';

/** So many tables are offered. */
export const MOST_TABLES = 1_000;

/** What is known of a source while a text is written: its tables, and the columns of those the text names. */
export function useKnown(parameters: readonly Parameter[], source: string, text: string): Known & { readonly away: boolean } {
  const listed = api.useSourcesTablesQuery({ id: source, search: '', limit: MOST_TABLES });
  const tables = useMemo(() => listed.data?.tables ?? [], [listed.data]);
  const wanted = useMemo(() => tablesIn(tokensOf(text)).flatMap((each) => addressOf(each, tables)), [text, tables]);
  const key = wanted.map((each) => `${each.schema}.${each.name}`).join('\n');
  const dispatch = useAppDispatch();
  const [described, setDescribed] = useState<readonly DescribedTableDto[]>([]);
  useEffect(() => {
    let current = true;
    void describeTables(dispatch, source, wanted).then((all) => {
      if (current) setDescribed(all);
    });
    return () => {
      current = false;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- The same tables are not asked about again at every key.
  }, [key, source, dispatch]);
  return useMemo(() => ({ tables, described, parameters, away: listed.isError }), [tables, described, parameters, listed.isError]);
}

/** The table of the source a name in a text means; none where it has no such. */
export function addressOf({ schema, table }: TableNamed, tables: Known['tables']) {
  return tables.find((each) => each.name === table && (schema === undefined || each.schema === schema)) ?? [];
}
