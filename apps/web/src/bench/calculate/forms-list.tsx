import { Input } from '@headlessui/react';
import { X } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { findForms } from '@cendra/core';
import documentation from '../../../../../docs/expressions.md?raw';
import { EmptyState } from '../../ui/notice';
import { exampleOf, examplesIn } from './documented-examples';

interface FormsListProps {
  /** `…` stands in it where something is to be filled in. */
  readonly onWrite: (skeleton: string) => void;
  readonly onClose: () => void;
}

const EXAMPLES = examplesIn(documentation);

/** All that can be written in an expression, found by what it is called, what it does and what others call it. */
export default function FormsList({ onWrite, onClose }: FormsListProps) {
  const [sought, setSought] = useState('');
  const found = useMemo(() => findForms(sought), [sought]);
  const list = useRef<HTMLUListElement>(null);
  const lines = () => [...(list.current?.querySelectorAll('button') ?? [])];
  const move = (event: React.KeyboardEvent, by: number) => {
    event.preventDefault();
    const all = lines();
    const at = all.findIndex((each) => each === document.activeElement) + by;
    if (at >= 0) all[Math.min(at, all.length - 1)]?.focus();
    else event.currentTarget.querySelector('input')?.focus();
  };
  return (
    <div
      className="flex h-full flex-col"
      onKeyDown={(event) => {
        if (event.key === 'Escape') onClose();
        if (event.key === 'ArrowDown') move(event, 1);
        if (event.key === 'ArrowUp') move(event, -1);
      }}
    >
      <div className="flex items-center gap-2 border-b px-2 py-1">
        <Input
          autoFocus
          aria-label="Find a function"
          placeholder="what it does, or what you call it"
          value={sought}
          onChange={(event) => setSought(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && found[0]) onWrite(found[0].skeleton);
          }}
          className="h-7 min-w-0 flex-1 rounded border bg-paper px-2"
        />
        <button
          type="button"
          aria-label="Close the functions"
          title="Close the functions"
          onClick={onClose}
          className="flex size-6 shrink-0 items-center justify-center text-ink-faint hover:text-ink"
        >
          <X size={16} strokeWidth={1.75} aria-hidden />
        </button>
      </div>
      <ul ref={list} aria-label="Functions" className="min-h-0 flex-1 overflow-auto">
        {found.map((form) => {
          const example = exampleOf(form, EXAMPLES);
          const known = form.otherWords.filter((each) => sought !== '' && each.startsWith(sought.trim().toLowerCase()));
          return (
            <li key={form.signature} className="border-b">
              <button
                type="button"
                onClick={() => onWrite(form.skeleton)}
                className="w-full px-2 py-1 text-left hover:bg-panel focus:bg-panel"
              >
                <code className="font-mono text-meta">{form.signature}</code>
                <span className="block">
                  Gives {form.says}.{known.length > 0 && <span className="text-ink-soft"> Elsewhere: {known.join(', ')}.</span>}
                </span>
                {example && (
                  <span className="figures block text-meta text-ink-soft">
                    <code className="font-mono">{example.written}</code> gives <code className="font-mono">{example.gives}</code>
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ul>
      {found.length === 0 && <EmptyState>Nothing here does that, or is called so.</EmptyState>}
    </div>
  );
}
