import { useMemo } from 'react';
import type { Definition, Edit } from '@cendra/core';
import { editSentence, itemsOf } from '@cendra/core';
import { useAppDispatch } from '../app/store';
import { Button } from '../ui/button';
import { ProblemLine } from '../ui/notice';
import type { OpenBench } from './bench-slice';
import { dropped, retried } from './bench-slice';
import { mint } from './mint';

/** Both sides of an edit that somebody else's newer change stands in the way of. */
export function Conflict({ bench }: { readonly bench: OpenBench }) {
  const dispatch = useAppDispatch();
  const { conflict, id, saved } = bench;
  const again = useMemo(() => conflict && againstNewest(conflict.batch.edits, saved.definition), [conflict, saved.definition]);
  if (!conflict) return null;
  const { batch, problems } = conflict;
  const mine = batch.edits.map((edit) => editSentence(edit, saved.definition)).join('; ');
  return (
    <section aria-label="Two changes meet" className="space-y-2 border-b border-amber bg-panel px-3 py-2" role="alert">
      {problems.map((problem, index) => (
        <ProblemLine key={index} problem={{ severity: 'warning', message: problem.message }} />
      ))}
      <p>
        Yours: you {mine}. <span className="text-ink-soft">Theirs is what the bench shows now{theirs(batch.edits, saved.definition)}.</span>
      </p>
      <div className="flex gap-2">
        <Button small onClick={() => dispatch(dropped({ id, editId: batch.editId }))}>
          Keep theirs
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

/** The same wish stated against what is there now; undefined when its target is gone. */
function againstNewest(edits: readonly Edit[], definition: Definition): readonly Edit[] | undefined {
  const stated = edits.map((edit): Edit | undefined => {
    const from = currentOf(edit, definition);
    return from === undefined ? undefined : ({ ...edit, from } as Edit);
  });
  return stated.every((edit) => edit !== undefined) ? stated : undefined;
}

function currentOf(edit: Edit, definition: Definition): unknown {
  switch (edit.kind) {
    case 'set title':
      return definition.title;
    case 'set step':
      return (definition.steps.find((each) => each.id === edit.step) as unknown as Record<string, unknown> | undefined)?.[edit.property];
    case 'set item': {
      const step = definition.steps.find((each) => each.id === edit.step);
      return step && itemsOf(step, edit.list).find((each) => each.id === edit.from.id);
    }
    case 'set input':
      return definition.steps.find((each) => each.id === edit.step)?.inputs[edit.slot] ?? null;
    case 'set result':
      return definition.result;
    case 'set parameter':
      return definition.parameters.find((each) => each.id === edit.parameter)?.[edit.property];
    case 'rename parameter':
      return definition.parameters.find((each) => each.id === edit.parameter)?.name;
    default:
      return undefined;
  }
}

function theirs(edits: readonly Edit[], definition: Definition): string {
  const [edit] = edits;
  const current = edit && currentOf(edit, definition);
  return typeof current === 'string' ? `: ${current}` : '';
}
