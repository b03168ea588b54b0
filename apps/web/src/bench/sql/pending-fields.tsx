import { useState } from 'react';
import { sameType } from '@cendra/core';
import { Button } from '../../ui/button';
import { ChoiceSlot } from '../slots';
import type { Pending } from './use-described';

const GONE = 'gone';

/** What the source gives for the text now and was not taken over. Fields used further on and gone are another one now, or gone. */
export function PendingFields({ pending: { over, used, changes, take } }: { readonly pending: Pending }) {
  const [chosen, setChosen] = useState<Readonly<Record<string, string>>>({});
  const nameOf = (id: string) => over.fresh.find((each) => each.id === id)?.name ?? GONE;
  const proposed = (gone: (typeof used)[number]) => {
    const [alike, ...others] = over.fresh.filter((each) => sameType(each.type, gone.type));
    return alike && others.length === 0 ? alike.name : GONE;
  };
  const answer = (gone: (typeof used)[number]) => chosen[gone.id] ?? proposed(gone);
  const renamed = () =>
    new Map(
      used.flatMap((gone) => {
        const fresh = over.fresh.find((each) => each.name === answer(gone));
        return fresh ? [[gone.id, fresh.id] as const] : [];
      }),
    );
  return (
    <div role="group" aria-label="Fields to take over" className="mb-2 border bg-panel px-3 py-2">
      <p>The source gives other columns for this text than were taken over: {changes.join('; ')}.</p>
      {used.map((gone) => (
        <p key={gone.id} className="flex flex-wrap items-center gap-2">
          <strong className="font-medium">{gone.name}</strong> is used further on and not in the text any more. It is
          <ChoiceSlot
            label={`What ${gone.name} is now`}
            value={answer(gone)}
            choices={[...over.fresh.map((each) => nameOf(each.id)), GONE]}
            disabled={false}
            onChange={(choice) => setChosen({ ...chosen, [gone.id]: choice })}
          />
        </p>
      ))}
      <Button small kind="primary" onClick={() => take(renamed())}>
        Take over
      </Button>
    </div>
  );
}
