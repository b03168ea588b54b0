import { Input } from '@headlessui/react';
import { useMemo, useState } from 'react';
import { datasetName, LONGEST_TITLE } from '@cendra/core';
import { useAppDispatch } from '../app/store';
import type { OpenBench } from './bench-slice';
import { edited } from './bench-slice';
import { mint } from './mint';

/** The dataset's title, changed in place: Enter or leaving keeps, Esc restores. Emptied, it is called by what it keeps. */
export function TitleField({ bench, locked }: { readonly bench: OpenBench; readonly locked: boolean }) {
  const { title } = bench.definition;
  const name = useMemo(() => datasetName(bench.definition), [bench.definition]);
  const [typed, setTyped] = useState<string>();
  const dispatch = useAppDispatch();
  const keep = () => {
    const to = typed?.trim();
    setTyped(undefined);
    if (to === undefined || to === title || (title === '' && to === name)) return;
    dispatch(edited({ id: bench.id, batch: { editId: mint(), edits: [{ kind: 'set title', from: title, to }] } }));
  };
  return (
    <h1 className="min-w-0 flex-[0_1_auto]">
      <Input
        aria-label="Title of the dataset"
        value={typed ?? name}
        title={title === '' ? 'Called by what it keeps, until you name it' : undefined}
        maxLength={LONGEST_TITLE}
        readOnly={locked}
        size={Math.min(40, Math.max(8, (typed ?? name).length))}
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
