import { Input } from '@headlessui/react';
import { useState } from 'react';
import { useAppDispatch } from '../app/store';
import type { OpenBench } from './bench-slice';
import { edited } from './bench-slice';
import { mint } from './mint';

/** The dataset's title, changed in place: Enter or leaving keeps, Esc restores. */
export function TitleField({ bench, locked }: { readonly bench: OpenBench; readonly locked: boolean }) {
  const { title } = bench.definition;
  const [typed, setTyped] = useState<string>();
  const dispatch = useAppDispatch();
  const keep = () => {
    const to = typed?.trim();
    setTyped(undefined);
    if (to === undefined || to === '' || to === title) return;
    dispatch(edited({ id: bench.id, batch: { editId: mint(), edits: [{ kind: 'set title', from: title, to }] } }));
  };
  return (
    <h1 className="min-w-0 flex-[0_1_auto]">
      <Input
        aria-label="Title of the dataset"
        value={typed ?? title}
        maxLength={200}
        readOnly={locked}
        size={Math.min(40, Math.max(8, (typed ?? title).length))}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') setTyped(undefined);
        }}
        className="w-full truncate rounded bg-transparent px-1 font-serif text-title hover:bg-panel"
      />
    </h1>
  );
}
