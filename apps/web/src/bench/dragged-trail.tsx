import { closestCenter, DndContext, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import type { DragEndEvent } from '@dnd-kit/core';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import type { ReactNode } from 'react';
import { useState } from 'react';
import type { Edit, LaneLine } from '@cendra/core';
import { checkedStep, moveAlongEdits } from '@cendra/core';
import { ConfirmDialog } from '../ui/confirm-dialog';
import { brokenBy } from './broken-by';
import type { Bench } from './use-bench';

interface DraggedTrailProps {
  readonly bench: Bench;
  readonly lines: readonly LaneLine[];
  readonly children: ReactNode;
}

/** A line is picked up only when the pointer has moved so far, so that a click stays one; in pixels. */
const PICKED_UP = 8;

/** Lines of the trail that are dragged to another place on their lane. What that would break is told first; keys do the same. */
export function DraggedTrail({ bench, lines, children }: DraggedTrailProps) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: PICKED_UP } }));
  const [asked, setAsked] = useState<{ readonly title: string; readonly edits: readonly Edit[]; readonly broken: readonly string[] }>();
  const [refused, setRefused] = useState('');
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const [from, to] = [active, over].map((each) => lines.find((line) => line.step === each?.id));
    setRefused('');
    if (!from || !to || from === to) return;
    const lane = lines.filter((each) => each.lane === from.lane);
    const edits =
      from.lane === to.lane ? moveAlongEdits(bench.trail.definition, from.step, lane.indexOf(to) - lane.indexOf(from)) : undefined;
    const title = checkedStep(bench.trail, from.step)?.title ?? 'the step';
    if (!edits) {
      setRefused(`${title} cannot stand there: a step moves within its lane, as far as nothing else takes rows on the way.`);
      return;
    }
    const broken = brokenBy(bench, edits);
    if (broken.length === 0) bench.edit(...edits);
    else setAsked({ title: `Move ${title}?`, edits, broken });
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
      <SortableContext items={lines.map((each) => each.step)} strategy={verticalListSortingStrategy} disabled={bench.withoutValues}>
        {children}
      </SortableContext>
      <p role="status" className={refused === '' ? 'sr-only' : 'border-t bg-panel px-2 py-1 text-meta text-amber'}>
        {refused}
      </p>
      {asked && (
        <ConfirmDialog
          open
          title={asked.title}
          action="Move it"
          onConfirm={() => bench.edit(...asked.edits)}
          onClose={() => setAsked(undefined)}
        >
          {asked.broken.join(' ')}
        </ConfirmDialog>
      )}
    </DndContext>
  );
}

/** What a line of the trail needs to be dragged. */
export function useDraggedLine(step: string) {
  const { listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: step });
  return { listeners, ref: setNodeRef, style: { transform: CSS.Translate.toString(transform), transition }, isDragging };
}
