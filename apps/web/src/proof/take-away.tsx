import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { Download } from 'lucide-react';

const FORMATS = [
  ['xlsx', 'Spreadsheet, XLSX', 'types, formats and a header that stays'],
  ['csv', 'CSV', 'one header line, text'],
  ['json', 'JSON', 'one list of objects'],
  ['ndjson', 'NDJSON', 'an object per line'],
  ['parquet', 'Parquet', 'columns with their types'],
] as const;

interface TakeAwayProps {
  readonly result: string;
  readonly dataset: string;
  readonly revision: number;
  readonly name: string;
  readonly title: string;
}

/** All rows as a file of an open format; the browser streams it to disk. */
export function TakeAway({ result, dataset, revision, name, title }: TakeAwayProps) {
  const address = (format: string) => {
    const query = new URLSearchParams({ format, dataset, revision: String(revision), name, title: title.slice(0, 1_000) });
    return `/api/results/${result}/file?${query.toString()}`;
  };
  return (
    <Menu>
      <MenuButton className="inline-flex h-8 items-center gap-1.5 rounded border border-ember bg-ember px-3 font-medium text-on-ember">
        <Download size={16} strokeWidth={1.75} aria-hidden />
        Take away
      </MenuButton>
      <MenuItems anchor="bottom end" className="z-40 min-w-72 rounded border bg-paper py-1 shadow-md">
        {FORMATS.map(([format, words, more]) => (
          <MenuItem key={format}>
            <a href={address(format)} download className="flex justify-between gap-4 px-3 py-1 data-focus:bg-panel">
              {words} <span className="text-meta text-ink-soft">{more}</span>
            </a>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
