import { DndContext, PointerSensor, pointerWithin, useDraggable, useDroppable, useSensor, useSensors } from '@dnd-kit/core';
import type { DragEndEvent } from '@dnd-kit/core';
import { CSS } from '@dnd-kit/utilities';
import { GripVertical } from 'lucide-react';
import type { ReactNode } from 'react';
import { useRef, useState } from 'react';
import type { UnionField } from '@cendra/core';
import { exchangedEdits, fieldById } from '@cendra/core';
import type { OfUnion } from './field-line';

/** Where a cell of the ledger stands. */
interface Cell {
  readonly field: string;
  readonly slot: number;
}

const PICKED_UP = 4;
const idOf = ({ field, slot }: Cell) => `${slot} ${field}`;
const cellOf = (id: string | number): Cell => {
  const [slot = '', ...field] = String(id).split(' ');
  return { slot: Number(slot), field: field.join(' ') };
};

/** Fields of an input are lined up by hand: a cell is dragged to another line of its input, or moved by Alt with an arrow. */
export function LinedCells({ bench, union, children }: OfUnion & { readonly children: ReactNode }) {
  const { step, arriving } = union;
  const box = useRef<HTMLDivElement>(null);
  const [said, setSaid] = useState('');
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: PICKED_UP } }));
  const name = ({ field, slot }: Cell) => {
    const id = step.fields.find((each) => each.id === field)?.from[slot];
    return (id && arriving[slot] && fieldById(arriving[slot].schema, id)?.name) ?? 'null';
  };
  const put = (from: Cell, to: Cell) => {
    if (bench.withoutValues || from.slot !== to.slot) return;
    const edits = exchangedEdits(bench.trail.definition, step, from.slot, from.field, to.field);
    if (edits.length === 0) return;
    setSaid(`${name(from)} is ${step.fields.find((each) => each.id === to.field)?.name ?? ''} now.`);
    bench.edit(...edits);
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => over && put(cellOf(active.id), cellOf(over.id));
  const onKeyDown = (event: React.KeyboardEvent<HTMLDivElement>) => {
    const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    const held = (event.target as HTMLElement).closest<HTMLElement>('[data-cell]')?.dataset.cell;
    if (!event.altKey || by === 0 || held === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const from = cellOf(held);
    const to = step.fields[step.fields.findIndex((each) => each.id === from.field) + by];
    if (!to) return;
    const cell = { field: to.id, slot: from.slot };
    put(from, cell);
    box.current?.querySelector<HTMLElement>(`[data-cell="${window.CSS.escape(idOf(cell))}"] .slot`)?.focus();
  };
  return (
    <DndContext sensors={sensors} collisionDetection={pointerWithin} onDragEnd={onDragEnd}>
      <div ref={box} className="mt-2 overflow-x-auto" onKeyDownCapture={onKeyDown}>
        {children}
      </div>
      <p role="status" className="sr-only">
        {said}
      </p>
    </DndContext>
  );
}

interface LinedCellProps {
  readonly field: UnionField;
  readonly slot: number;
  /** What the field is called in this input; left out where it has none. */
  readonly named: string | undefined;
  readonly movable: boolean;
  readonly children: ReactNode;
}

/** What a field is in one input. */
export function LinedCell({ field, slot, named, movable, children }: LinedCellProps) {
  const id = idOf({ field: field.id, slot });
  const { listeners, setNodeRef, transform, isDragging, active } = useDraggable({ id, disabled: !movable || named === undefined });
  const { setNodeRef: setDropRef, isOver } = useDroppable({ id });
  const here = isOver && !isDragging && active !== null && cellOf(active.id).slot === slot;
  return (
    <td ref={setDropRef} data-cell={id} className={here ? 'bg-panel outline-1 outline-ink-soft' : ''}>
      <span
        ref={setNodeRef}
        style={{ transform: CSS.Translate.toString(transform) }}
        className={`inline-flex items-center gap-0.5 ${isDragging ? 'relative z-10 bg-paper shadow-md' : ''}`}
      >
        {movable && named !== undefined && (
          <span {...listeners} title={`Drag ${named} to another line`} className="flex cursor-grab text-ink-faint hover:text-ink">
            <GripVertical size={14} strokeWidth={1.75} aria-hidden />
          </span>
        )}
        <span>{children}</span>
      </span>
    </td>
  );
}
