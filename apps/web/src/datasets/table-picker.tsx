import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import { typeWord } from '@cendra/core';
import type { FieldType } from '@cendra/core';
import type { CatalogueTableDto, SourceDto } from '../api';
import { api } from '../api';
import { OPTION } from '../bench/slots';
import { SourceMark } from '../sources/source-mark';
import { tableWords, useFoundTables } from '../sources/use-found-tables';
import { Button } from '../ui/button';
import { FailureNotice } from '../ui/notice';
import type { TableAddress } from './recent-tables';
import { recentTables, sameTable } from './recent-tables';
import { useBegin } from './use-begin';
import { Overlay } from '../ui/overlay';

const MOST_OF_A_SOURCE = 60;
const MOST_COLUMNS = 40;

interface Offer extends TableAddress {
  readonly found: CatalogueTableDto;
}

/** Begins a dataset from a table of any source, found by part of its name; those used last come first. */
export default function TablePicker({ onClose }: { readonly onClose: () => void }) {
  const sources = api.useSourcesListQuery().data ?? [];
  const [typed, setTyped] = useState('');
  const { begin, beginning, failure } = useBegin();
  return (
    <Overlay place="top" look="flex w-[46rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">A new dataset reads …</DialogTitle>
      <Combobox value={null} onChange={(offer: Offer | null) => offer && !beginning && void begin(offer)} immediate>
        {({ activeOption }) => (
          <>
            <div className="border-b px-3 py-2">
              <ComboboxInput
                autoFocus
                aria-label="Table to begin from"
                placeholder="part of a table’s name"
                autoComplete="off"
                onChange={(event) => setTyped(event.target.value)}
                className="h-8 w-full rounded border bg-paper px-2"
              />
            </div>
            <div className="flex min-h-0 flex-1">
              <ComboboxOptions static modal={false} className="h-96 max-h-[60vh] min-w-0 flex-1 overflow-auto py-1">
                {sources.map((each, lane) => (
                  <TablesOf key={each.id} source={each} lane={lane} typed={typed} several={sources.length > 1} />
                ))}
              </ComboboxOptions>
              <aside aria-label="Columns" className="w-64 shrink-0 overflow-auto border-l bg-panel px-3 py-2 max-md:hidden">
                {activeOption ? <ColumnsOf table={activeOption as Offer} /> : <p className="text-ink-soft">Columns stand here.</p>}
              </aside>
            </div>
          </>
        )}
      </Combobox>
      {sources.length === 0 && <p className="px-3 py-2 text-ink-soft">No source is given to you yet. A steward gives sources.</p>}
      <FailureNotice failure={failure} />
      <div className="flex justify-end border-t px-3 py-2">
        <Button small onClick={onClose}>
          Leave it
        </Button>
      </div>
    </Overlay>
  );
}

interface TablesOfProps {
  readonly source: SourceDto;
  readonly lane: number;
  readonly typed: string;
  /** Of more than one, each stands under its name. */
  readonly several: boolean;
}

function TablesOf({ source, lane, typed, several }: TablesOfProps) {
  const { tables, asking, failure } = useFoundTables(source.id, typed, MOST_OF_A_SOURCE);
  const recent = recentTables();
  const place = (each: Offer) => {
    const at = recent.findIndex((used) => sameTable(used, each));
    return at < 0 ? recent.length : at;
  };
  const offers = tables
    .map((found): Offer => ({ source: source.id, schema: found.schema, table: found.name, found }))
    .sort((a, b) => place(a) - place(b));
  return (
    <>
      {several && (
        <p className="flex items-center gap-2 px-3 pt-2 pb-1 text-meta text-ink-soft">
          <SourceMark mark={source.mark} lane={lane} /> {source.name}
        </p>
      )}
      {offers.map((each) => (
        <ComboboxOption key={`${each.schema}.${each.table}`} value={each} className={OPTION}>
          <span className="truncate">
            <span className="text-ink-faint">{each.schema}.</span>
            {each.table}
          </span>
          <span className="figures ml-auto shrink-0 text-meta text-ink-soft">
            {place(each) < recent.length && 'used lately, '}
            {tableWords(each.found)}
          </span>
        </ComboboxOption>
      ))}
      {offers.length === 0 && !asking && !failure && (
        <p className="px-3 py-1 text-ink-soft">{several ? 'Nothing' : 'No table'} here has that in its name.</p>
      )}
      <FailureNotice failure={failure} />
    </>
  );
}

/** The columns of the marked table, so that one need not begin to see them. */
function ColumnsOf({ table: { source, schema, table } }: { readonly table: Offer }) {
  const described = api.useSourcesDescribeQuery({ id: source, schema, table });
  if (!described.data) return <p className="text-ink-soft">{described.error ? 'The source does not say.' : 'Asking …'}</p>;
  const { columns } = described.data;
  return (
    <>
      <p className="pb-1 font-medium">{table}</p>
      <ul>
        {columns.slice(0, MOST_COLUMNS).map((each) => (
          <li key={each.name} className="flex justify-between gap-2 text-meta">
            <span className="truncate">{each.name}</span>
            <span className="shrink-0 text-ink-soft">{typeWord(each.type as FieldType)}</span>
          </li>
        ))}
      </ul>
      {columns.length > MOST_COLUMNS && <p className="text-meta text-ink-soft">and {columns.length - MOST_COLUMNS} more</p>}
    </>
  );
}
