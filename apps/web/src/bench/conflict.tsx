import { useEffect, useMemo } from 'react';
import { editSentence, restated } from '@cendra/core';
import type { RevisionDto } from '../api';
import { api } from '../api';
import { useAppDispatch } from '../app/store';
import { Button } from '../ui/button';
import { ProblemLine } from '../ui/notice';
import type { OpenBench } from './bench-slice';
import { dropped, retried } from './bench-slice';
import { mint } from './mint';

/**
 * Both sides of an edit that a newer one stands in the way of. Edits of one person follow one another, whatever tabs
 * they were made in; nobody is asked about those.
 */
export function Conflict({ bench }: { readonly bench: OpenBench }) {
  const dispatch = useAppDispatch();
  const { conflict, id, saved } = bench;
  const batch = conflict?.batch;
  const again = useMemo(() => batch && restated(batch.edits, saved.definition), [batch, saved.definition]);
  const meanwhile = useMeanwhile(bench);
  const follows = meanwhile !== undefined && meanwhile.length > 0 && meanwhile.every((each) => each.own) && again !== undefined;
  useEffect(() => {
    if (follows && batch) dispatch(retried({ id, editId: batch.editId, batch: { editId: mint(), edits: again } }));
  }, [follows, batch, again, id, dispatch]);
  if (!conflict || !batch || !meanwhile || follows) return null;
  const mine = batch.edits.map((edit) => editSentence(edit, saved.definition)).join('; ');
  return (
    <section aria-label="Two changes meet" className="space-y-2 border-b border-amber bg-panel px-3 py-2" role="alert">
      {conflict.problems.map((problem, index) => (
        <ProblemLine key={index} problem={{ severity: 'warning', message: problem.message }} />
      ))}
      <ul className="list-disc pl-4">
        <li>You {mine}. This is not saved.</li>
        {meanwhile.map(({ number, person, own, sentence, withheld }) => (
          <li key={number}>
            {own ? 'You' : person} {withheld ? 'changed something of a source you lack' : sentence}, r{number}.
          </li>
        ))}
      </ul>
      <p className="text-ink-soft">
        What you did since is shown and waits, as undoing does.{again ? '' : ' Yours cannot be put on top any more; make it anew.'}
      </p>
      <div className="flex gap-2">
        <Button small onClick={() => dispatch(dropped({ id, editId: batch.editId }))}>
          {again ? 'Keep what is saved' : 'All right'}
        </Button>
        {again && (
          <Button
            small
            kind="primary"
            onClick={() => dispatch(retried({ id, editId: batch.editId, batch: { editId: mint(), edits: again } }))}
          >
            Keep mine
          </Button>
        )}
      </div>
    </section>
  );
}

/** What was saved since the conflicting edits were begun, newest first; undefined until it is known, none where nobody can say. */
function useMeanwhile({ id, conflict, saved }: OpenBench): readonly RevisionDto[] | undefined {
  const since = conflict?.batch.on;
  const history = api.useDatasetsHistoryQuery({ id, before: saved.revision + 1 }, { skip: !conflict });
  if (history.error || since === undefined) return [];
  return history.currentData?.filter((each) => each.number > since);
}
