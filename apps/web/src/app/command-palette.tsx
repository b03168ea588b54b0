import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, DialogTitle } from '@headlessui/react';
import { useMemo, useState } from 'react';
import { matchPath, useLocation, useNavigate } from 'react-router';
import type { Definition } from '@cendra/core';
import { checkTrail, reportFields } from '@cendra/core';
import type { SourceDto } from '../api';
import { api } from '../api';
import { useAppSelector } from './store';
import { useFoundTables } from '../sources/use-found-tables';
import { Overlay } from '../ui/overlay';

interface Goal {
  readonly key: string;
  readonly words: string;
  readonly kind: string;
  readonly to: string;
}

/** So many letters before tables are asked for: they may be thousands. */
const LEAST_FOR_TABLES = 2;
const MOST_TABLES = 8;
const GOAL = 'flex justify-between gap-4 px-3 py-1.5 data-focus:bg-panel';

/** Where to go, by typing part of its name: datasets, sources, tables, and what the open dataset has. */
export default function CommandPalette({ onClose }: { readonly onClose: () => void }) {
  return (
    <Overlay place="top" look="w-[520px] max-w-full" onClose={onClose}>
      <DialogTitle className="sr-only">Go to</DialogTitle>
      <Goals onClose={onClose} />
    </Overlay>
  );
}

function Goals({ onClose }: { readonly onClose: () => void }) {
  const [typed, setTyped] = useState('');
  const navigate = useNavigate();
  const datasets = api.useDatasetsListQuery().data ?? [];
  const sources = api.useSourcesListQuery().data ?? [];
  const at = matchPath('/datasets/:id/*', useLocation().pathname)?.params.id;
  const open = useAppSelector((state) => (at === undefined ? undefined : state.bench?.[at]?.definition));
  const ofDataset = useMemo(() => (open && at !== undefined ? goalsIn(at, open) : []), [open, at]);
  const goals: readonly Goal[] = [
    ...ofDataset,
    ...datasets.map(({ id, title }) => ({ key: id, words: title, kind: 'dataset', to: `/datasets/${id}/bench` })),
    ...datasets.map(({ id, title }) => ({ key: `proof ${id}`, words: title, kind: 'proof', to: `/datasets/${id}/proof` })),
    ...sources.map(({ id, name }) => ({ key: id, words: name, kind: 'source', to: `/sources/${id}` })),
    { key: 'datasets', words: 'All datasets', kind: 'list', to: '/datasets' },
    { key: 'sources', words: 'All sources', kind: 'list', to: '/sources' },
    { key: 'texts', words: 'All kept texts', kind: 'list', to: '/texts' },
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
          <ComboboxOption key={goal.key} value={goal} className={GOAL}>
            <span>{goal.words}</span>
            <span className="text-ink-soft">{goal.kind}</span>
          </ComboboxOption>
        ))}
        {typed.trim().length >= LEAST_FOR_TABLES && sources.map((each) => <TableGoals key={each.id} source={each} typed={typed} />)}
        {found.length === 0 && <p className="px-3 py-2 text-ink-soft">{NOTHING}</p>}
      </ComboboxOptions>
    </Combobox>
  );
}

const NOTHING = 'No dataset, source, field or parameter has this in its name.';

/** What the open dataset hands over, and its parameters. */
function goalsIn(id: string, definition: Definition): readonly Goal[] {
  const field = (of: string) => `/datasets/${id}/fields?field=${of}`;
  return [
    ...reportFields(checkTrail(definition)).map((each) => ({ key: each.id, words: each.name, kind: 'field', to: field(each.id) })),
    ...definition.parameters.map((each) => ({
      key: each.id,
      words: `:${each.name}`,
      kind: 'parameter',
      to: `/datasets/${id}/bench#Parameters`,
    })),
  ];
}

function TableGoals({ source: { id, name }, typed }: { readonly source: SourceDto; readonly typed: string }) {
  const { tables } = useFoundTables(id, typed, MOST_TABLES);
  return tables.map(({ schema, name: table }) => {
    const goal: Goal = {
      key: `${id} ${schema}.${table}`,
      words: `${schema}.${table}`,
      kind: `table of ${name}`,
      to: `/sources/${id}?tab=Tables&table=${encodeURIComponent(`${schema}/${table}`)}`,
    };
    return (
      <ComboboxOption key={goal.key} value={goal} className={GOAL}>
        <span>{goal.words}</span>
        <span className="text-ink-soft">{goal.kind}</span>
      </ComboboxOption>
    );
  });
}
