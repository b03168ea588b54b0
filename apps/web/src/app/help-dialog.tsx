import { DialogTitle } from '@headlessui/react';
import { Button } from '../ui/button';
import { WORDS } from '../ui/words';
import { Overlay } from '../ui/overlay';

const KEYS: readonly (readonly [string, readonly (readonly [string, string])[]])[] = [
  [
    'Everywhere',
    [
      ['Ctrl+K', 'go to a dataset, source or list'],
      ['? or F1', 'this page'],
      ['Ctrl+Z, Ctrl+Shift+Z', 'undo, redo'],
      ['Esc', 'close what is open, or take back what is being typed'],
    ],
  ],
  [
    'Trail',
    [
      ['/', 'add a step behind the selected one'],
      ['↑ ↓', 'go from step to step'],
      ['Ctrl+Enter', 'run'],
      ['Alt+↑ ↓', 'move the step'],
    ],
  ],
  [
    'Criteria',
    [
      ['F2', 'write the clause as an expression, or as slots again'],
      ['Alt+Enter', 'a clause behind this one'],
      ['Alt+O', 'switch the clause off or on'],
      ['Alt+P', 'make a parameter of its values'],
      ['Alt+G', 'into a group'],
      [':name', 'typed as a value: a parameter'],
      ['= field', 'typed as a value: another field, or an expression'],
    ],
  ],
  [
    'Texts and scripts',
    [
      ['Alt+/, Tab', 'offer what fits here, take it'],
      ['Ctrl+Shift+Enter', 'run the chosen part, or the script up to here'],
      ['↑ ↓, Enter', 'in the list of statements: go through them, run up to there'],
      ['Esc, then Tab', 'leave the text'],
    ],
  ],
  [
    'Rows',
    [
      ['arrow keys, with Shift', 'move the cell, choose several'],
      ['Ctrl+Home, Ctrl+End', 'the first row, the last row'],
      ['S, Shift+S', 'sort by the field, also by it'],
      ['P', 'the profile of the field'],
      ['X, H', 'freeze the field, hide it'],
      ['[ ], + −', 'move the field, make it wider or narrower'],
      ['F, G', 'follow the row; show the rows of a group'],
      ['Enter', 'a text that is cut, whole'],
      ['Ctrl+F, Ctrl+C', 'find a text in all rows, copy'],
    ],
  ],
];

/** What the keys do and what the words mean; the two themes under the names people know them by. */
export default function HelpDialog({ onClose }: { readonly onClose: () => void }) {
  return (
    <Overlay place="top" look="flex w-[56rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-4 py-2 font-serif text-title">Keys and words</DialogTitle>
      <div className="min-h-0 flex-1 overflow-auto px-4 py-3" tabIndex={0} role="region" aria-label="Keys and words, in full">
        <div className="grid grid-cols-2 gap-x-8 gap-y-4 max-md:grid-cols-1">
          {KEYS.map(([place, keys]) => (
            <section key={place} aria-label={place}>
              <h3 className="border-b pb-1 font-medium">{place}</h3>
              <dl>
                {keys.map(([key, does]) => (
                  <div key={key} className="flex gap-3 py-0.5">
                    <dt className="w-40 shrink-0 font-mono text-meta">{key}</dt>
                    <dd className="text-ink-soft">{does}</dd>
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </div>
        <h3 className="mt-4 border-b pb-1 font-medium">Words</h3>
        <dl className="grid grid-cols-2 gap-x-8 max-md:grid-cols-1">
          {Object.entries(WORDS).map(([word, means]) => (
            <div key={word} className="border-b py-1.5">
              <dt className="font-medium">{word}</dt>
              <dd className="text-ink-soft">{means}</dd>
            </div>
          ))}
        </dl>
        <p className="mt-4 text-ink-soft">
          There are two themes: <em>Paper</em>, the light one, and <em>Char</em>, the dark one. The button at the top changes between them.
        </p>
      </div>
      <div className="flex justify-end border-t px-3 py-2">
        <Button small onClick={onClose} autoFocus>
          Close
        </Button>
      </div>
    </Overlay>
  );
}
