import { Menu, MenuButton, MenuHeading, MenuItem, MenuItems, MenuSection } from '@headlessui/react';
import { Download } from 'lucide-react';
import { Button } from '../ui/button';
import { grouped, megabytes } from '../ui/format';
import { FailureNotice } from '../ui/notice';
import type { PaperOf } from './ask-paper';
import { askedPaper } from './ask-paper';
import type { Taking, TakingState } from './use-taking';

const FORMATS = [
  ['xlsx', 'Spreadsheet, XLSX', 'types, formats and a header that stays'],
  ['csv', 'CSV', 'one header line, text'],
  ['json', 'JSON', 'one list of objects'],
  ['ndjson', 'NDJSON', 'an object per line'],
  ['parquet', 'Parquet', 'columns with their types'],
  ['metadata', 'Metadata, JSON', 'what the rows are, for files without a place for it'],
] as const;

/** Of these the lines are taken, as they are read here. */
const PAPERS = [
  ['pdf', 'PDF', 'pages to send or print'],
  ['xlsx', 'Spreadsheet with groups', 'levels to fold, totals as formulas'],
  ['html', 'HTML', 'one page that needs nothing else'],
  ['md', 'Markdown', 'a table of up to 1 000 lines'],
  ['xml', 'XML', 'lines with what each is'],
] as const;

/** ECMA-376: rows of a sheet; one is the header. */
const ROWS_OF_A_SHEET = 1_048_575;

const HEADING = 'px-3 py-1 text-meta text-ink-soft';
const ITEM = 'flex w-full justify-between gap-4 px-3 py-1 text-left data-focus:bg-panel';

interface TakeAwayProps {
  readonly rows: number;
  readonly paper: PaperOf;
  readonly state: TakingState;
}

/** All rows, or the lines as they are read, as a file of an open format. */
export function TakeAway({ rows, paper, state }: TakeAwayProps) {
  const { result, dataset, revision, name, title } = paper;
  const address = (format: string) => {
    const query = new URLSearchParams({ format, dataset, revision: String(revision), name, title: title.slice(0, 1_000) });
    return `/api/results/${result}/file?${query.toString()}`;
  };
  const takePaper = async (format: string, words: string) => state.take(words, await askedPaper(paper, format));
  const sheets = Math.ceil(rows / ROWS_OF_A_SHEET);
  return (
    <Menu>
      <MenuButton
        disabled={state.taking !== undefined}
        className="inline-flex h-8 items-center gap-1.5 rounded border border-ember bg-ember px-3 font-medium text-on-ember disabled:opacity-50"
      >
        <Download size={16} strokeWidth={1.75} aria-hidden />
        Take away
      </MenuButton>
      <MenuItems anchor="bottom end" className="z-40 min-w-80 rounded border bg-paper py-1 shadow-md">
        <MenuSection>
          <MenuHeading className={HEADING}>All rows</MenuHeading>
          {FORMATS.map(([format, words, more]) => (
            <MenuItem key={format}>
              <button type="button" onClick={() => state.take(words, { address: address(format) })} className={ITEM}>
                {words}{' '}
                <span className="text-meta text-ink-soft">
                  {format === 'xlsx' && sheets > 1 ? `${grouped(ROWS_OF_A_SHEET)} rows a sheet, on ${sheets} sheets` : more}
                </span>
              </button>
            </MenuItem>
          ))}
        </MenuSection>
        <MenuSection>
          <MenuHeading className={`${HEADING} mt-1 border-t pt-2`}>As it is read here</MenuHeading>
          {PAPERS.map(([format, words, more]) => (
            <MenuItem key={format}>
              <button type="button" onClick={() => void takePaper(format, words)} className={ITEM}>
                {words} <span className="text-meta text-ink-soft">{more}</span>
              </button>
            </MenuItem>
          ))}
        </MenuSection>
      </MenuItems>
    </Menu>
  );
}

/** How far a file is, with a way to stop it, or why there is none. */
export function TakingLine({ taking, failure, stop }: TakingState) {
  if (failure) return <FailureNotice failure={failure} />;
  if (!taking) return null;
  return (
    <p role="status" className="figures flex items-center gap-2 py-1 text-ink-soft">
      {wordsOf(taking)}
      <Button small kind="quiet" onClick={stop}>
        Stop it
      </Button>
    </p>
  );
}

function wordsOf({ format, bytes, size }: Taking): string {
  if (size === undefined) return `Writing ${format} …`;
  return `${format}: ${megabytes(bytes)} of ${megabytes(size)} MB are here`;
}
