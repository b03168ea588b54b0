import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef, useState } from 'react';
import type { ProofColumn, ProofTable, ReadLine } from '@cendra/core';
import { columnLink, columnOver, columnWords, freeColumns, LEADS, lineLink, lineReader, lineWords, overWords } from '@cendra/core';
import type { ProofDto } from '../api';
import { PAGE, usePages } from '../bench/rows/use-pages';
import { LeadsTo } from './leads-to';
import { lineLook, markedLook } from './line-looks';
import type { AskedBehind } from './rows-behind';
import { RowsBehind } from './rows-behind';
import type { ProofAsked } from './use-read-lines';
import { useReadLines } from './use-read-lines';
import { fittingWidth } from './widths';

const ROW = 28;
const MOST_PIXELS = 30_000_000;
const INDENT = 16;
const LETTER = 8;

interface LinesGridProps {
  readonly asked: ProofAsked;
  readonly proof: ProofDto;
  readonly table: ProofTable;
}

/** The lines of the proof, of which only those in sight are fetched. */
export function LinesGrid({ asked, proof, table }: LinesGridProps) {
  const box = useRef<HTMLDivElement>(null);
  const { columns, layout, worded } = table;
  const read = useReadLines(asked, proof.key);
  const [behind, setBehind] = useState<AskedBehind>();
  const [leads, setLeads] = useState<Leads>();
  const lineOf = useMemo(() => lineReader(proof, layout), [proof, layout]);
  const inSight = Math.min(proof.lines, Math.floor(MOST_PIXELS / ROW));
  const down = useVirtualizer({
    count: inSight,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 8,
    useFlushSync: false,
  });
  const items = down.getVirtualItems();
  const first = items[0]?.index ?? 0;
  const skipped = proof.lines > inSight && inSight > 1 ? Math.round((first / (inSight - 1)) * (proof.lines - inSight)) : 0;
  const pages = usePages(read, first + skipped, items.length, proof.lines);
  const grand = layout.grandTotalFirst ? 0 : Math.max(0, proof.lines - 1);
  const grandPage = usePages(read, grand, 1, proof.lines);
  const lineAt = (index: number, of = pages): ReadLine | undefined => {
    const cells = of.get(Math.floor(index / PAGE))?.[index % PAGE];
    return cells && lineOf(cells);
  };
  // The grand total is the widest there is of what adds up; it stands at one of the ends.
  const totals = layout.grandTotal
    ? Array.from({ length: 6 }, (_, away) => lineAt(Math.abs(grand - away), grandPage)).filter(
        (each) => each?.kind === 'totals' && each.level === 0,
      )
    : [];
  const shares = sharesOfHeads(table);
  const widths = columns.map(
    (column) =>
      fittingWidth(
        column.field,
        column.further ? null : (proof.extents[column.field.id] ?? null),
        longer(column.header, column.place === undefined ? '' : (shares[column.place] ?? '')),
        column.write,
        totals.flatMap((each) => (each ? [columnWords(each, column, table)] : [])),
      ) +
      column.letters * LETTER,
  );
  const words = wordsWidth(table, widths);
  const width = words + sumOf(widths);
  const across = useColumnsInSight(box, table, widths, words);
  const headed = table.heads.length + 1;
  return (
    <div
      ref={box}
      role="table"
      aria-label="Lines of the proof"
      aria-rowcount={proof.lines + headed}
      tabIndex={0}
      className="figures min-h-44 flex-1 overflow-auto"
    >
      <div role="rowgroup" className="sticky top-0 z-10 border-b border-ink-faint bg-paper" style={{ width }}>
        {across.heads.map((heads, depth) => (
          <div key={depth} role="row" aria-rowindex={depth + 1} className="flex">
            <span role="columnheader" aria-label="group" className="sticky left-0 z-10 h-7 shrink-0 bg-paper" style={{ width: words }} />
            <span aria-hidden className="shrink-0" style={{ width: across.before }} />
            {heads.map(({ first, words: said, width: own, several }) => (
              <span
                key={first}
                role="columnheader"
                title={said}
                style={{ width: own }}
                className={`h-7 shrink-0 border-l px-2 leading-7 font-medium ${several ? 'overflow-clip whitespace-nowrap' : 'truncate text-right'}`}
              >
                {several ? (
                  // It stays in sight as long as one of its columns is.
                  <span className="sticky" style={{ left: words + 8 }}>
                    {said}
                  </span>
                ) : (
                  said
                )}
              </span>
            ))}
          </div>
        ))}
        <div role="row" aria-rowindex={headed} className="flex">
          {worded && (
            <span
              role="columnheader"
              aria-label="group"
              className={`h-7 shrink-0 ${table.places ? 'sticky left-0 z-10 bg-paper' : ''}`}
              style={{ width: words }}
            />
          )}
          <span aria-hidden className="shrink-0" style={{ width: across.before }} />
          {across.columns.map(({ column, index }) => (
            <span
              key={column.key}
              role="columnheader"
              title={column.field.description || undefined}
              style={{ width: widths[index] }}
              className={`h-7 shrink-0 truncate px-2 leading-7 font-medium ${column.number ? 'text-right' : ''}`}
            >
              {column.header}
              {column.number && <Letters column={column} letters="" />}
            </span>
          ))}
        </div>
      </div>
      <div role="rowgroup" className="relative" style={{ height: down.getTotalSize(), width }}>
        {items.map((item) => {
          const line = lineAt(item.index + skipped);
          return (
            <div
              key={item.key}
              role="row"
              aria-rowindex={item.index + skipped + headed + 1}
              className={`absolute left-0 flex ${lineLook(line, layout)}`}
              style={{ top: item.start, height: ROW, width }}
            >
              {line ? (
                <LineCells
                  line={line}
                  table={table}
                  widths={widths}
                  words={words}
                  across={across}
                  onBehind={(place) => setBehind({ index: item.index + skipped, line, place })}
                  onLeads={setLeads}
                />
              ) : (
                <span role="cell" className="px-2 leading-7 text-ink-faint">
                  …
                </span>
              )}
            </div>
          );
        })}
      </div>
      {leads && <LeadsTo {...leads} onClose={() => setLeads(undefined)} />}
      {behind && <RowsBehind asked={asked} table={table} behind={behind} onClose={() => setBehind(undefined)} />}
    </div>
  );
}

/** The room below the columns a line has nothing under. */
const roomBehind = (line: ReadLine, table: ProofTable, widths: readonly number[]): number =>
  sumOf(widths.slice(0, freeColumns(line, table)));

const sumOf = (widths: readonly number[]) => widths.reduce((sum, each) => sum + each, 0);

/** So much room the words of a line have at least, be it below columns without totals. */
const WORDS = 220;
/** And so much more to say over how many values averages are. */
const OVER_VALUES = 150;
/** As much as what leads to a row's own record needs. */
const LEADING = 64;

/** How wide stands before the columns what lines begin with: no wider than what goes on below columns without totals leaves. */
function wordsWidth({ worded, places, layout, columns }: ProofTable, widths: readonly number[]): number {
  if (!worded) return 0;
  if (places) return WORDS;
  const first = columns.findIndex((column) => column.total !== undefined);
  const free = sumOf(widths.slice(0, first < 0 ? widths.length : first));
  const indents = layout.levels.length * INDENT;
  const said = WORDS + (layout.totals.some((each) => each.aggregate === 'average') ? OVER_VALUES : 0);
  return Math.max(said - free, indents + (layout.link === undefined ? 0 : LEADING), 2 * INDENT);
}

/** By place, what each of its columns has to fit of the heads above it: its share of the longest. */
function sharesOfHeads({ heads, places }: ProofTable): readonly string[] {
  const shares = (places?.words ?? []).map(() => '');
  for (const { words, first, places: over, columns } of heads.flat())
    for (let place = first; place < first + over; place++)
      shares[place] = longer(shares[place] ?? '', words.slice(0, Math.ceil(words.length / columns)));
  return shares;
}

const longer = (a: string, b: string): string => (b.length > a.length ? b : a);

/** The letters behind a value, in a room that is as wide where there are none. */
export function Letters({ column, letters }: { readonly column: ProofColumn; readonly letters: string }) {
  if (column.letters === 0) return null;
  return (
    <sup className="inline-block text-left text-meta" style={{ width: column.letters * LETTER }}>
      {letters}
    </sup>
  );
}

interface LineCellsProps {
  readonly line: ReadLine;
  readonly table: ProofTable;
  readonly widths: readonly number[];
  readonly words: number;
  readonly across: ColumnsInSight;
  /** Shows the rows the line is made of, or one of its columns per value. */
  readonly onBehind: (place: number | undefined) => void;
  readonly onLeads: (leads: Leads) => void;
}

/** A value that leads somewhere. */
interface Leads {
  readonly address: string;
  readonly words: string;
}

/** The columns of which cells are made, and the room of those before them. */
interface ColumnsInSight {
  readonly before: number;
  /** Of each line of heads those over columns in sight, as wide as these are. */
  readonly heads: readonly (readonly {
    readonly first: number;
    readonly words: string;
    readonly width: number;
    readonly several: boolean;
  }[])[];
  readonly columns: readonly { readonly column: ProofColumn; readonly index: number }[];
}

/** Columns per value may be hundreds: of those only the ones in sight are made. */
function useColumnsInSight(
  box: React.RefObject<HTMLDivElement | null>,
  { columns, heads, places: { words: places, over } = NO_PLACES }: ProofTable,
  widths: readonly number[],
  words: number,
): ColumnsInSight {
  const widthOf = (place: number) => widths.slice(place * over, (place + 1) * over).reduce((sum, each) => sum + each, 0);
  const along = useVirtualizer({
    horizontal: true,
    count: places.length,
    getScrollElement: () => box.current,
    estimateSize: widthOf,
    scrollMargin: words,
    overscan: 3,
    useFlushSync: false,
  });
  const numbered = columns.map((column, index) => ({ column, index }));
  if (places.length === 0) return { before: 0, heads: [], columns: numbered };
  const shown = along.getVirtualItems().map((each) => each.index);
  const together = (from: readonly number[]) => from.reduce((sum, each) => sum + widthOf(each), 0);
  return {
    before: together(Array.from({ length: shown[0] ?? 0 }, (_each, place) => place)),
    heads: heads.map((line) =>
      line.flatMap(({ words: said, first, places: count }) => {
        const own = shown.filter((each) => each >= first && each < first + count);
        return own.length > 0 ? [{ first, words: said, width: together(own), several: count > 1 }] : [];
      }),
    ),
    columns: numbered.filter(({ index }) => shown.includes(Math.floor(index / over))),
  };
}

const NO_PLACES: NonNullable<ProofTable['places']> = { words: [], over: 1 };

/** What leads somewhere; where to is shown before it is followed. */
function Leading({ address, words, onLeads }: { readonly address: string; readonly words: string; readonly onLeads: () => void }) {
  return (
    <button
      type="button"
      title={`Leads to ${address}`}
      onClick={onLeads}
      className="underline decoration-dotted underline-offset-2 hover:decoration-solid"
    >
      {words}
    </button>
  );
}

function LineCells({ line, table, widths, words, across, onBehind, onLeads }: LineCellsProps) {
  const said = lineWords(line, table);
  const address = lineLink(line, table);
  const opener = (
    <button type="button" title="Show its rows" onClick={() => onBehind(undefined)} className="hover:underline">
      {said}
    </button>
  );
  if (line.kind === 'header')
    return (
      <span
        role="cell"
        aria-colspan={table.columns.length + 1}
        className={`truncate leading-7 ${table.places ? 'sticky left-0' : ''}`}
        style={{ paddingLeft: (line.level - 1) * INDENT + 8 }}
      >
        {opener} <span className="font-normal text-ink-faint">{overWords(line, table)}</span>
      </span>
    );
  return (
    <>
      {words > 0 && (
        <span
          role="cell"
          title={[said, line.kind === 'totals' ? overWords(line, table) : ''].filter(Boolean).join(', ')}
          className={`shrink-0 leading-7 ${table.places ? 'sticky left-0 z-[5] truncate bg-paper' : 'whitespace-nowrap'}`}
          style={{ width: words, paddingLeft: Math.max(0, line.level - 1) * INDENT + 8 }}
        >
          <span
            className="block truncate"
            style={{ width: words + roomBehind(line, table, widths) - Math.max(0, line.level - 1) * INDENT - 16 }}
          >
            {address !== undefined ? (
              <Leading address={address} words={LEADS} onLeads={() => onLeads({ address, words: 'the row' })} />
            ) : line.kind === 'totals' ? (
              opener
            ) : (
              said
            )}
            {line.kind === 'totals' && line.rows !== null && <span className="font-normal text-ink-faint"> {overWords(line, table)}</span>}
          </span>
        </span>
      )}
      <span aria-hidden className="shrink-0" style={{ width: across.before }} />
      {across.columns.map(({ column, index }) => {
        const text = columnWords(line, column, table);
        const { look, letters } = markedLook(line, column, table);
        const address = columnLink(line, column);
        const shown = text.replaceAll('\n', ' ⏎ ');
        return (
          <span
            key={column.key}
            role="cell"
            style={{ width: widths[index] }}
            title={[text, columnOver(line, column, table)].filter(Boolean).join(', ')}
            className={`shrink-0 truncate px-2 leading-7 whitespace-pre ${column.number ? 'text-right' : ''} ${look} ${line.kind === 'totals' && text !== '' ? 'cursor-pointer hover:underline' : ''}`}
            // By keys the same is reached from the words of the line.
            onClick={line.kind === 'totals' && text !== '' ? () => onBehind(column.place) : undefined}
          >
            {address === undefined ? shown : <Leading address={address} words={shown} onLeads={() => onLeads({ address, words: text })} />}
            <Letters column={column} letters={letters} />
          </span>
        );
      })}
    </>
  );
}
