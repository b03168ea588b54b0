import { useNavigate } from 'react-router';
import type { FromShelf } from '@cendra/core';
import type { RoutineResultDto } from '../api';
import { api } from '../api';
import type { Failure } from '../api/problem';
import { failureOf } from '../api/problem';
import type { TableAddress } from './recent-tables';
import { rememberTable } from './recent-tables';

/** Makes a dataset that reads a table, or of a text, and opens it. */
export function useBegin(): {
  begin(table: TableAddress): Promise<void>;
  /** `kept` says which kept text it is, and in which version. */
  beginText(
    source: string,
    text: string,
    from?: { readonly title?: string; readonly kept?: FromShelf; readonly script?: boolean },
  ): Promise<void>;
  /** Of what a routine gives, by its signature; columns are said of one that does not say which it gives. */
  beginCall(source: string, calls: RoutineResultDto): Promise<void>;
  readonly beginning: boolean;
  readonly failure: Failure | undefined;
} {
  const [create, creating] = api.useDatasetsCreateMutation();
  const navigate = useNavigate();
  const begin = async ({ source, schema, table }: TableAddress) => {
    const answer = await create({ newDatasetDto: { source, schema, table } });
    if (!answer.data) return;
    rememberTable({ source, schema, table });
    await navigate(`/datasets/${answer.data.id}/bench`);
  };
  const beginText = async (
    source: string,
    text: string,
    from: { readonly title?: string; readonly kept?: FromShelf; readonly script?: boolean } = {},
  ) => {
    const answer = await create({ newDatasetDto: { source, text, ...from } });
    if (answer.data) await navigate(`/datasets/${answer.data.id}/bench`);
  };
  const beginCall = async (source: string, calls: RoutineResultDto) => {
    const answer = await create({ newDatasetDto: { source, calls } });
    if (answer.data) await navigate(`/datasets/${answer.data.id}/bench`);
  };
  return { begin, beginText, beginCall, beginning: creating.isLoading, failure: failureOf(creating.error) };
}
