import { DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import type { FromShelf } from '@cendra/core';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { SoughtInput, useSoughtTexts } from '../../kept-texts/sought-texts';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import { Overlay } from '../../ui/overlay';

interface TakeDialogProps {
  readonly source: string;
  onTake(taken: FromShelf, words: string): void;
  onClose(): void;
}

/** Chooses a text of the shelf for a step, by its words; what stood in the step can be had back by undo. */
export default function TakeDialog({ source, onTake, onClose }: TakeDialogProps) {
  const texts = useSoughtTexts();
  const [chosen, setChosen] = useState<string>();
  const { data: kept, error } = api.useKeptTextsOneQuery({ id: chosen ?? '' }, { skip: chosen === undefined });
  const own = (texts.lines ?? []).filter((each) => each.source === source);
  const words = kept?.versions[0]?.text ?? '';
  return (
    <Overlay place="top" look="flex w-[56rem] max-w-full flex-col" onClose={onClose}>
      <div className="flex items-center gap-2 border-b px-3 py-2">
        <DialogTitle className="mr-auto font-medium">Take a kept text</DialogTitle>
        <SoughtInput of={texts} />
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[18rem_1fr] max-md:grid-cols-1">
        <ul aria-label="Kept texts for this source" className="max-h-96 overflow-auto border-r">
          {own.map(({ id, name, note }) => (
            <li key={id}>
              <button
                type="button"
                aria-pressed={id === chosen}
                onClick={() => setChosen(id)}
                className={`block w-full border-b px-3 py-1.5 text-left hover:bg-panel ${id === chosen ? 'bg-panel' : ''}`}
              >
                {name}
                {note !== '' && <span className="block truncate text-meta text-ink-soft">{note}</span>}
              </button>
            </li>
          ))}
          {texts.lines && own.length === 0 && (
            <li className="px-3 py-2 text-ink-soft">
              {texts.sought.trim() === '' ? 'No text is kept for this source yet.' : 'No text for this source has these words.'}
            </li>
          )}
        </ul>
        <div className="min-h-48 overflow-auto">
          <FailureNotice failure={texts.failure ?? failureOf(error)} />
          {kept && chosen === kept.id ? (
            <pre tabIndex={0} aria-label="Its text" className="max-h-96 overflow-auto px-3 py-2 font-mono text-meta whitespace-pre-wrap">
              {words}
            </pre>
          ) : (
            <p className="px-3 py-2 text-ink-soft">Choose one to read it.</p>
          )}
        </div>
      </div>
      <div className="flex justify-end gap-2 border-t px-3 py-2">
        <Button small onClick={onClose}>
          Leave it
        </Button>
        <Button
          small
          kind="primary"
          disabled={!kept || chosen !== kept.id}
          onClick={() => {
            if (!kept) return;
            onTake({ text: kept.id, version: kept.version }, words);
            onClose();
          }}
        >
          Take it
        </Button>
      </div>
    </Overlay>
  );
}
