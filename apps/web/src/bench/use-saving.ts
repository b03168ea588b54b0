import { useEffect, useRef } from 'react';
import type { Definition } from '@cendra/core';
import type { DatasetDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { useAppDispatch, useAppSelector } from '../app/store';
import { confirmed, opened, refused, savingIs } from './bench-slice';

const RETRY_AFTER = 2_000;

/**
 * Sends pending edits one batch at a time, in order. A silent server is tried again with the same edit id,
 * which the server answers with the first outcome; a refusal is kept as a conflict. Edits of other tabs are
 * fetched when heard of.
 */
export function useSaving(id: string): void {
  const dispatch = useAppDispatch();
  const bench = useAppSelector((state) => state.bench?.[id]);
  const owner = bench?.owner ?? '';
  const [send] = api.useDatasetsEditMutation();
  const [fetchNewest] = api.useLazyDatasetsOneQuery();
  const session = useAppSelector((state) => state.connection.session);
  const sending = useRef(false);
  const next = bench?.conflict ? undefined : bench?.pending[0];
  const revision = bench?.saved.revision ?? 0;
  const heard = bench?.heard ?? 0;
  const pendingCount = bench?.pending.length ?? 0;

  useEffect(() => {
    if (!next || sending.current) return undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const attempt = async () => {
      sending.current = true;
      dispatch(savingIs({ id, saving: 'saving' }));
      const restores = next.restores === undefined ? {} : { restores: next.restores };
      const editsDto = { editId: next.editId, baseRevision: revision, edits: next.edits as object[], ...restores };
      const answer = await send({ id, editsDto });
      sending.current = false;
      if (answer.data) {
        const { definition, ...saved } = answer.data;
        dispatch(confirmed({ ...saved, definition: definition as unknown as Definition | null, editId: next.editId }));
        return;
      }
      const failure = failureOf(answer.error);
      if (failure && (failure.status === 0 || failure.status >= 500 || failure.status === 429)) {
        dispatch(savingIs({ id, saving: 'waiting for the server' }));
        timer = setTimeout(() => void attempt(), RETRY_AFTER);
      } else if (failure?.status === 401) {
        dispatch(savingIs({ id, saving: 'signed out' }));
      } else if (failure) {
        const newest = await fetchNewest({ id });
        if (newest.data?.definition) dispatch(opened(savedOf(newest.data, owner)));
        dispatch(refused({ id, editId: next.editId, problems: failure.problems }));
      }
    };
    void attempt();
    return () => clearTimeout(timer);
    // A batch is sent once in a session; what else changes meanwhile must not send it again.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [next?.editId, id, session]);

  useEffect(() => {
    if (heard <= revision || pendingCount > 0) return;
    void fetchNewest({ id }).then((newest) => {
      if (newest.data?.definition) dispatch(opened(savedOf(newest.data, owner)));
    });
  }, [heard, revision, pendingCount, id, owner, dispatch, fetchNewest]);
}

export function savedOf({ id, revision, savedAt, definition }: DatasetDto, owner: string) {
  return { id, owner, revision, savedAt, definition: definition as unknown as Definition };
}
