import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../api';

interface Goal {
  readonly key: string;
  readonly words: string;
  readonly kind: string;
  readonly to: string;
}

/** Where to go, by typing part of its name. */
export function CommandPalette({ open, onClose }: { readonly open: boolean; readonly onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-ink/20" aria-hidden />
      <div className="fixed inset-0 flex justify-center pt-24">
        <DialogPanel className="h-fit w-[520px] rounded border bg-paper shadow-md">
          <DialogTitle className="sr-only">Go to</DialogTitle>
          {open && <Goals onClose={onClose} />}
        </DialogPanel>
      </div>
    </Dialog>
  );
}

function Goals({ onClose }: { readonly onClose: () => void }) {
  const [typed, setTyped] = useState('');
  const navigate = useNavigate();
  const datasets = api.useDatasetsListQuery().data ?? [];
  const sources = api.useSourcesListQuery().data ?? [];
  const goals: readonly Goal[] = [
    ...datasets.map(({ id, title }) => ({ key: id, words: title, kind: 'dataset', to: `/datasets/${id}/bench` })),
    ...datasets.map(({ id, title }) => ({ key: `proof ${id}`, words: title, kind: 'proof', to: `/datasets/${id}/proof` })),
    ...sources.map(({ id, name }) => ({ key: id, words: name, kind: 'source', to: `/sources/${id}` })),
    { key: 'datasets', words: 'All datasets', kind: 'list', to: '/datasets' },
    { key: 'sources', words: 'All sources', kind: 'list', to: '/sources' },
    { key: 'runs', words: 'All runs', kind: 'list', to: '/runs' },
  ];
  const words = typed.toLowerCase().split(/\s+/);
  const found = goals.filter((goal) => words.every((word) => `${goal.words} ${goal.kind}`.toLowerCase().includes(word))).slice(0, 12);
  const go = (goal: Goal | null) => {
    if (!goal) return;
    onClose();
    void navigate(goal.to);
  };
  return (
    <Combobox onChange={go} immediate>
      <ComboboxInput
        autoFocus
        aria-label="Go to"
        placeholder="Part of a name"
        onChange={(event) => setTyped(event.target.value)}
        className="h-10 w-full border-b bg-paper px-3 outline-none"
      />
      <ComboboxOptions static modal={false} className="max-h-80 overflow-auto py-1">
        {found.map((goal) => (
          <ComboboxOption key={goal.key} value={goal} className="flex justify-between px-3 py-1.5 data-focus:bg-panel">
            <span>{goal.words}</span>
            <span className="text-ink-soft">{goal.kind}</span>
          </ComboboxOption>
        ))}
        {found.length === 0 && <p className="px-3 py-2 text-ink-soft">Nothing has this in its name.</p>}
      </ComboboxOptions>
    </Combobox>
  );
}
