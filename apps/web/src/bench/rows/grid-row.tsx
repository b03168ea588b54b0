import { memo } from 'react';
import type { FieldType } from '@cendra/core';
import type { ResultColumnDto } from '../../api';
import type { Cell } from '../../ui/cell';
import { grouped } from '../../ui/format';
import { pressed } from '../../ui/pressed';
import { GridCell } from './grid-cell';

const NARROWEST_GUTTER = 56;
/** Of a digit, and around the number, in pixels. */
const [DIGIT, AROUND] = [7, 18];

/** How wide the place of the row numbers is, so that the last one fits; picking one follows the row. */
export const gutterOf = (rows: number): number => Math.max(NARROWEST_GUTTER, grouped(String(rows)).length * DIGIT + AROUND);

/** The columns a grid renders: the frozen ones, and those in sight with the room left of them. */
export interface Across {
  readonly columns: readonly ResultColumnDto[];
  readonly widths: readonly number[];
  readonly lefts: readonly number[];
  /** Of the row numbers, in pixels. */
  readonly gutter: number;
  readonly frozen: number;
  readonly from: number;
  readonly until: number;
  /** Room of the columns that scroll and are left of those in sight, in pixels. */
  readonly lead: number;
  readonly width: number;
}

/** Indexes of the rendered columns, in their order. */
export function rendered({ frozen, from, until }: Across): readonly number[] {
  return [
    ...Array.from({ length: frozen }, (_, index) => index),
    ...Array.from({ length: Math.max(0, until - from + 1) }, (_, index) => from + index),
  ];
}

interface GridRowProps {
  readonly row: number;
  readonly top: number;
  readonly height: number;
  readonly cells: readonly Cell[] | undefined;
  /** Where each column's value stands among the cells. */
  readonly places: readonly number[];
  readonly across: Across;
  /** Column of the cell the keys act on, where it is in this row. */
  readonly active: number | undefined;
  /** Chosen columns of this row. */
  readonly chosenFrom: number | undefined;
  readonly chosenUntil: number | undefined;
  readonly onPoint: (row: number, column: number, extending: boolean) => void;
  readonly onOpen: (row: number, column: number) => void;
  /** What picking the row's number does: it follows the row, or shows the rows its group or its line was made of. */
  readonly onPick: ((row: number) => void) | undefined;
  readonly picking: 'follow' | 'group' | 'line';
}

/** One row of the grid. It renders only when something of its own changes, so scrolling costs the rows that come into sight. */
export const GridRow = memo(function GridRow({
  row,
  top,
  height,
  cells,
  places,
  across,
  active,
  chosenFrom,
  chosenUntil,
  onPoint,
  onOpen,
  onPick,
  picking,
}: GridRowProps) {
  const { columns, widths, lefts, frozen, from, lead } = across;
  return (
    <div
      role="row"
      aria-rowindex={row + 2}
      className="absolute top-0 left-0 flex border-b contain-strict"
      style={{ transform: `translateY(${top}px)`, height, width: across.width }}
    >
      <div role="rowheader" className="sticky left-0 z-10 h-full shrink-0 border-r bg-panel" style={{ width: across.gutter }}>
        <button
          type="button"
          tabIndex={-1}
          aria-label={`${picking === 'follow' ? 'Follow row' : `Rows of ${picking}`} ${grouped(row + 1)}`}
          title={picking === 'follow' ? 'Follow this row through the trail (F)' : `Show the rows of this ${picking} (G); F follows it`}
          disabled={!onPick}
          {...pressed(() => onPick?.(row))}
          className="h-full w-full pr-1.5 text-right text-ink-faint hover:text-ember"
        >
          {grouped(String(row + 1))}
        </button>
      </div>
      {rendered(across).map((index) => (
        <Lead key={index} width={index === from ? lead : 0}>
          <GridCell
            row={row}
            column={index}
            cell={cells && (cells[places[index] ?? 0] ?? null)}
            width={widths[index] ?? 120}
            type={columns[index]?.type as FieldType}
            active={active === index}
            chosen={chosenFrom !== undefined && chosenUntil !== undefined && index >= chosenFrom && index <= chosenUntil}
            frozenAt={index < frozen ? lefts[index] : undefined}
            onPoint={onPoint}
            onOpen={onOpen}
          />
        </Lead>
      ))}
    </div>
  );
});

/** Room for the columns left of those in sight. */
export function Lead({ width, children }: { readonly width: number; readonly children: React.ReactNode }) {
  return (
    <>
      {width > 0 && <span role="presentation" className="shrink-0" style={{ width }} />}
      {children}
    </>
  );
}
