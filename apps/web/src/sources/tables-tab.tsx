import { Input } from '@headlessui/react';
import { useDeferredValue, useState } from 'react';
import type { SourceDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { grouped } from '../ui/format';
import { EmptyState, FailureNotice } from '../ui/notice';
import { pressed } from '../ui/pressed';
import { Waiting } from '../ui/waiting';
import { TableView } from './table-view';
import { useAddress } from '../ui/address';

/** Finds a table by part of its name and shows it. */
export function TablesTab({ source }: { readonly source: SourceDto }) {
  const [typed, setTyped] = useState('');
  const sought = useDeferredValue(typed);
  const tables = api.useSourcesTablesQuery({ id: source.id, search: sought, limit: 500 });
  const [search, writeAddress] = useAddress();
  const chosen = search.get('table');
  const [schema = '', table = ''] = chosen?.split('/') ?? [];
  const show = (name: string) =>
    writeAddress((parameters) => {
      parameters.set('tab', 'Tables');
      parameters.set('table', name);
    });
  const found = tables.currentData ?? tables.data;
  return (
    <div className="flex h-full min-h-0">
      <div className="flex w-72 shrink-0 flex-col border-r bg-panel">
        <div className="border-b p-2">
          <Input
            aria-label="Part of a table’s name"
            placeholder="Part of a table’s name"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            className="h-8 w-full rounded border bg-paper px-2"
          />
        </div>
        <div className="min-h-0 flex-1 overflow-auto">
          {!found &&
            (tables.error ? (
              <div className="p-3">
                <FailureNotice failure={failureOf(tables.error)} />
              </div>
            ) : (
              <div className="p-3">
                <Waiting what="Asking the source" />
              </div>
            ))}
          {found?.tables.length === 0 && <EmptyState>No table has “{sought}” in its name.</EmptyState>}
          <ul>
            {found?.tables.map((each) => {
              const name = `${each.schema}/${each.name}`;
              return (
                <li key={name}>
                  <button
                    type="button"
                    aria-current={name === chosen}
                    {...pressed(() => show(name))}
                    className="flex w-full items-baseline gap-2 border-b border-l-2 border-l-transparent px-2 py-1.5 text-left hover:bg-paper aria-current:border-l-ember aria-current:bg-paper"
                  >
                    <span className="min-w-0 truncate">
                      <span className="text-ink-faint">{each.schema}.</span>
                      {each.name}
                    </span>
                    <span className="figures ml-auto text-meta text-ink-soft">
                      {each.estimate === null ? (each.view ? 'view' : '') : `~${grouped(each.estimate)}`}
                    </span>
                  </button>
                </li>
              );
            })}
          </ul>
          {found && found.total > found.tables.length && (
            <p className="p-2 text-meta text-ink-soft">{grouped(found.total)} found; type more of the name.</p>
          )}
        </div>
      </div>
      <div className="min-w-0 flex-1 overflow-auto">
        {chosen ? (
          <TableView key={chosen} source={source} schema={schema} table={table} />
        ) : (
          <EmptyState>Choose a table to see its columns, keys, relations and some of its rows.</EmptyState>
        )}
      </div>
    </div>
  );
}
