import { memo } from 'react';
import type { FieldType } from '@cendra/core';
import { instantIn, isNumber } from '@cendra/core';
import type { Cell } from '../../ui/cell';
import { CellText } from '../../ui/cell';
import { grouped } from '../../ui/format';

interface GridCellProps {
  readonly row: number;
  readonly column: number;
  readonly cell: Cell | undefined;
  readonly width: number;
  readonly type: FieldType;
  readonly active: boolean;
  readonly chosen: boolean;
  /** Where it stays while others scroll; undefined for a cell that scrolls. */
  readonly frozenAt: number | undefined;
  readonly onPoint: (row: number, column: number, extending: boolean) => void;
  readonly onOpen: (row: number, column: number) => void;
}

/** One stored value: numbers right, nulls ruled off, blanks seen, cut texts with their length. */
export const GridCell = memo(function GridCell({
  row,
  column,
  cell,
  width,
  type,
  active,
  chosen,
  frozenAt,
  onPoint,
  onOpen,
}: GridCellProps) {
  return (
    <div
      id={`cell-${row}-${column}`}
      role="gridcell"
      aria-colindex={column + 1}
      aria-selected={chosen}
      onPointerDown={(event) => event.button === 0 && onPoint(row, column, event.shiftKey)}
      onPointerEnter={(event) => event.buttons === 1 && onPoint(row, column, true)}
      onDoubleClick={() => onOpen(row, column)}
      style={frozenAt === undefined ? { width } : { width, position: 'sticky', left: frozenAt, zIndex: 5 }}
      className={`h-full shrink-0 truncate border-r px-2 leading-[27px] whitespace-pre select-none ${isNumber(type) ? 'text-right' : ''} ${
        chosen ? 'bg-chosen' : frozenAt === undefined ? '' : 'bg-paper'
      } ${active ? 'outline-2 -outline-offset-2 outline-ember' : ''}`}
    >
      <CellContent cell={cell} type={type} />
    </div>
  );
});

function CellContent({ cell, type }: { readonly cell: Cell | undefined; readonly type: FieldType }) {
  // A plain text, so that the value that arrives only changes it.
  if (cell === undefined) return '…';
  if (cell === null || typeof cell === 'string') return <CellText text={cell === null ? null : shown(cell, type)} />;
  if ('m' in cell)
    return (
      <span className="text-amber" title="This value fits no type and is shown as the source’s text">
        ! {cell.m}
      </span>
    );
  return (
    <>
      <CellText text={cell.t.slice(0, 200)} />
      <span className="text-ink-faint"> … {grouped(cell.n)} characters, Enter shows all</span>
    </>
  );
}

function shown(text: string, type: FieldType): string {
  if (isNumber(type)) return groupedNumber(text);
  return type.kind === 'instant' && type.zone !== undefined ? instantIn(type.zone, text) : text;
}

/** Thousands apart before the point; text that is no plain number stays as it is. */
function groupedNumber(text: string): string {
  const match = /^(-?)(\d+)(\.\d+)?$/.exec(text);
  return match ? `${match[1] === '-' ? '−' : ''}${grouped(match[2] ?? '')}${match[3] ?? ''}` : text;
}
