import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { FieldType } from '@cendra/core';
import { isNumber, typeWord } from '@cendra/core';
import type { ResultDto } from '../api';
import { api } from '../api';
import { CellText } from '../ui/cell';
import type { Cell } from '../ui/cell';
import { grouped } from '../ui/format';
import { WholeCell } from './whole-cell';

const ROW = 28;
const PAGE = 200;
/** Where row numbers stand; picking one follows the row. */
const GUTTER = 'w-14 shrink-0';
/** A page that could not be read, for instance because the engine was just started anew, is asked for again. */
const MOST_TRIES = 5;
const TRY_AGAIN_AFTER = 800;
/** Chromium caps an element's height; beyond it the scroll position stands for a larger one. */
const MOST_PIXELS = 30_000_000;

interface RowsGridProps {
  readonly result: ResultDto;
  /** What is said where there is no row. */
  readonly nothing?: React.ReactNode;
  /** Follows a row, given the columns and its cells; left out where rows are not those of the trail. */
  readonly onFollow?: (columns: readonly { readonly id: string }[], cells: readonly (Cell | undefined)[]) => void;
}

/** Stored rows as a virtual grid. Only pages in sight are fetched; arrow keys move the cell, Enter shows a cut text whole, F follows the row. */
export function RowsGrid({ result, nothing, onFollow }: RowsGridProps) {
  const total = Number(result.rows);
  const box = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState({ row: 0, column: 0 });
  const [whole, setWhole] = useState<{ readonly row: string; readonly field: string; readonly name: string }>();
  const inSight = Math.min(total, Math.floor(MOST_PIXELS / ROW));
  const virtual = useVirtualizer({ count: inSight, getScrollElement: () => box.current, estimateSize: () => ROW, overscan: 8 });
  const items = virtual.getVirtualItems();
  const first = items[0]?.index ?? 0;
  // Beyond the cap the position is scaled: the same place on the bar, a later row.
  const skipped = total > inSight && inSight > 1 ? Math.round((first / (inSight - 1)) * (total - inSight)) : 0;
  const widths = useMemo(() => result.columns.map((column) => columnWidth(column.name, column.type as FieldType)), [result.columns]);
  const pages = usePages(result.id, first + skipped, items.length, total);

  const move = (row: number, column: number) => {
    const next = { row: Math.min(total - 1, Math.max(0, row)), column: Math.min(result.columns.length - 1, Math.max(0, column)) };
    setAt(next);
    virtual.scrollToIndex(Math.max(0, next.row - skipped));
  };
  const cellAt = (row: number, column: number) => pages.get(Math.floor(row / PAGE))?.[row % PAGE]?.[column + 1];
  const onKeyDown = (event: React.KeyboardEvent) => {
    const { row, column } = at;
    const act = {
      ArrowDown: () => move(row + 1, column),
      ArrowUp: () => move(row - 1, column),
      ArrowRight: () => move(row, column + 1),
      ArrowLeft: () => move(row, column - 1),
      PageDown: () => move(row + 20, column),
      PageUp: () => move(row - 20, column),
      Home: () => move(row, 0),
      End: () => move(row, result.columns.length - 1),
      Enter: () => openWhole(row, column),
      f: () => follow(row),
    }[event.key];
    if (!act || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    act();
  };
  const follow = (row: number) =>
    onFollow?.(
      result.columns,
      result.columns.map((_, column) => cellAt(row, column)),
    );
  const openWhole = (row: number, column: number) => {
    const cell = cellAt(row, column);
    const target = result.columns[column];
    const id = pages.get(Math.floor(row / PAGE))?.[row % PAGE]?.[0];
    if (target && typeof id === 'string' && typeof cell === 'object' && cell !== null && 't' in cell)
      setWhole({ row: id, field: target.id, name: target.name });
  };
  if (total === 0) return nothing ?? <p className="px-4 py-6 text-ink-soft">No row is left.</p>;
  return (
    <>
      <div
        ref={box}
        role="grid"
        tabIndex={0}
        aria-label={`${grouped(result.rows)} rows`}
        aria-rowcount={total + 1}
        aria-colcount={result.columns.length}
        aria-activedescendant={`cell-${at.row}-${at.column}`}
        onKeyDown={onKeyDown}
        className="figures h-full overflow-auto text-meta"
      >
        <div role="row" aria-rowindex={1} className="sticky top-0 z-10 flex w-max min-w-full border-b bg-panel">
          <span role="presentation" className={`h-7 border-r ${GUTTER}`} />
          {result.columns.map((column, index) => (
            <div
              key={column.id}
              role="columnheader"
              aria-colindex={index + 1}
              style={{ width: widths[index] }}
              className={`h-7 shrink-0 truncate border-r px-2 leading-7 ${isNumber(column.type as FieldType) ? 'text-right' : ''}`}
              title={`${column.name}, ${typeWord(column.type as FieldType)}`}
            >
              <span className="font-medium">{column.name}</span>{' '}
              <span className="text-ink-faint">{typeWord(column.type as FieldType)}</span>
            </div>
          ))}
        </div>
        <div
          role="presentation"
          className="relative"
          style={{ height: virtual.getTotalSize(), width: widths.reduce((sum, each) => sum + each, 56) }}
        >
          {items.map((item) => {
            const row = item.index + skipped;
            return (
              <div
                key={item.key}
                role="row"
                aria-rowindex={row + 2}
                className="absolute left-0 flex border-b"
                style={{ top: item.start, height: ROW }}
              >
                <div role="rowheader" className={`h-full border-r bg-panel ${GUTTER}`}>
                  <button
                    type="button"
                    tabIndex={-1}
                    aria-label={`Follow row ${row + 1}`}
                    title="Follow this row through the trail (F)"
                    disabled={!onFollow}
                    onClick={() => follow(row)}
                    className="h-full w-full pr-1.5 text-right text-ink-faint hover:text-ember"
                  >
                    {grouped(String(row + 1))}
                  </button>
                </div>
                {result.columns.map((column, index) => (
                  <GridCell
                    key={column.id}
                    id={`cell-${row}-${index}`}
                    cell={cellAt(row, index)}
                    width={widths[index] ?? 120}
                    number={isNumber(column.type as FieldType)}
                    active={at.row === row && at.column === index}
                    onChoose={() => setAt({ row, column: index })}
                    onOpen={() => openWhole(row, index)}
                  />
                ))}
              </div>
            );
          })}
        </div>
      </div>
      {whole && <WholeCell result={result.id} {...whole} onClose={() => setWhole(undefined)} />}
    </>
  );
}

interface GridCellProps {
  readonly id: string;
  readonly cell: Cell | undefined;
  readonly width: number;
  readonly number: boolean;
  readonly active: boolean;
  readonly onChoose: () => void;
  readonly onOpen: () => void;
}

function GridCell({ id, cell, width, number, active, onChoose, onOpen }: GridCellProps) {
  return (
    <div
      id={id}
      role="gridcell"
      aria-selected={active}
      onClick={onChoose}
      onDoubleClick={onOpen}
      style={{ width }}
      className={`h-full shrink-0 truncate border-r px-2 leading-[27px] whitespace-pre ${number ? 'text-right' : ''} ${active ? 'outline-2 -outline-offset-2 outline-ember' : ''}`}
    >
      {cell === undefined ? (
        <span className="text-ink-faint" aria-label="being read">
          …
        </span>
      ) : cell === null || typeof cell === 'string' ? (
        <CellText text={cell === null ? null : number ? groupedNumber(cell) : cell} />
      ) : 'm' in cell ? (
        <span className="text-amber" title="This value fits no type and is shown as the source’s text">
          ! {cell.m}
        </span>
      ) : (
        <>
          <CellText text={cell.t.slice(0, 200)} />
          <span className="text-ink-faint"> … {grouped(cell.n)} characters, Enter shows all</span>
        </>
      )}
    </div>
  );
}

/** Thousands apart before the point; text that is no plain number stays as it is. */
function groupedNumber(text: string): string {
  const match = /^(-?)(\d+)(\.\d+)?$/.exec(text);
  return match ? `${match[1] === '-' ? '−' : ''}${grouped(match[2] ?? '')}${match[3] ?? ''}` : text;
}

function columnWidth(name: string, type: FieldType): number {
  const body = { text: 180, json: 220, whole: 100, decimal: 120, float: 140, yesno: 80, date: 100, time: 110, datetime: 180, instant: 200 }[
    type.kind
  ];
  return Math.min(320, Math.max(body, (name.length + typeWord(type).length) * 6.6 + 28));
}

/** The pages of rows around what is in sight, as they arrive. */
function usePages(result: string, first: number, count: number, total: number): ReadonlyMap<number, readonly (readonly Cell[])[]> {
  const [pages, setPages] = useState<ReadonlyMap<number, readonly (readonly Cell[])[]>>(new Map());
  const [tries, setTries] = useState(0);
  const [fetchRows] = api.useLazyResultsRowsQuery();
  const from = Math.floor(first / PAGE);
  const until = Math.floor(Math.min(total - 1, first + Math.max(count, 40)) / PAGE);
  useEffect(() => {
    let current = true;
    let again: ReturnType<typeof setTimeout> | undefined;
    for (let page = from; page <= until; page++) {
      if (pages.has(page)) continue;
      void fetchRows({ id: result, offset: page * PAGE, limit: PAGE }, true).then((answer) => {
        const rows = answer.data as unknown as readonly (readonly Cell[])[] | undefined;
        if (!current) return;
        if (rows) setPages((old) => new Map([...old].slice(-20).concat([[page, rows]])));
        else if (tries < MOST_TRIES) again = setTimeout(() => setTries(tries + 1), TRY_AGAIN_AFTER);
      });
    }
    return () => {
      current = false;
      clearTimeout(again);
    };
  }, [from, until, result, fetchRows, pages, tries]);
  return pages;
}
