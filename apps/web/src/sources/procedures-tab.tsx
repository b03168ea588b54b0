import { Input } from '@headlessui/react';
import { useDeferredValue, useState } from 'react';
import type { SourceDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { grouped } from '../ui/format';
import { EmptyState, FailureNotice } from '../ui/notice';
import { useAddress } from '../ui/address';
import { pressed } from '../ui/pressed';
import { Waiting } from '../ui/waiting';
import { RoutineView } from './routine-view';

/** Finds a function or procedure by part of its name, its comment or its arguments, and shows it. */
export function ProceduresTab({ source }: { readonly source: SourceDto }) {
  const [typed, setTyped] = useState('');
  const sought = useDeferredValue(typed);
  const asked = api.useRoutinesListQuery({ id: source.id, search: sought, limit: 500 });
  const [search, writeAddress] = useAddress();
  const chosen = search.get('routine');
  const show = (signature: string) =>
    writeAddress((parameters) => {
      parameters.set('tab', 'Procedures');
      parameters.set('routine', signature);
    });
  const found = asked.currentData ?? asked.data;
  const routine = found?.routines.find((each) => each.signature === chosen);
  return (
    <div className="flex h-full min-h-0">
      <div className="flex w-72 shrink-0 flex-col border-r bg-panel">
        <div className="border-b p-2">
          <Input
            aria-label="Part of a procedure’s name"
            placeholder="Part of a name, comment or argument"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            className="h-8 w-full rounded border bg-paper px-2"
          />
        </div>
        <div className="min-h-0 flex-1 overflow-auto">
          {!found && (
            <div className="p-3">
              {asked.error ? <FailureNotice failure={failureOf(asked.error)} /> : <Waiting what="Asking the source" />}
            </div>
          )}
          {found?.routines.length === 0 && (
            <EmptyState>
              {sought === ''
                ? 'This source has no function or procedure that may be called.'
                : `Nothing its user may call has “${sought}” in its name, comment or arguments.`}
            </EmptyState>
          )}
          <ul>
            {found?.routines.map(({ signature, schema, name, kind, arguments: taken }) => (
              <li key={signature}>
                <button
                  type="button"
                  aria-current={signature === chosen}
                  {...pressed(() => show(signature))}
                  className="w-full border-b border-l-2 border-l-transparent px-2 py-1.5 text-left hover:bg-paper aria-current:border-l-ember aria-current:bg-paper"
                >
                  <span className="block truncate">
                    <span className="text-ink-faint">{schema}.</span>
                    {name}
                  </span>
                  <span className="block truncate text-meta text-ink-soft">
                    {kind}
                    {taken.length > 0 && `, by ${taken.map((each, at) => each.name || `argument ${at + 1}`).join(', ')}`}
                  </span>
                </button>
              </li>
            ))}
          </ul>
          {found && found.total > found.routines.length && (
            <p className="p-2 text-meta text-ink-soft">{grouped(found.total)} found; type more of the name.</p>
          )}
        </div>
      </div>
      <div className="min-w-0 flex-1 overflow-auto">
        {routine ? (
          <RoutineView key={routine.signature} source={source} routine={routine} />
        ) : (
          <EmptyState>Choose one to see what it takes, what it gives and how it is written.</EmptyState>
        )}
      </div>
    </div>
  );
}
