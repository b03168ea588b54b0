import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import type { DragEndEvent } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { GripVertical } from 'lucide-react';
import { useRef } from 'react';
import type { SheetField } from '@cendra/core';
import { aggregatesOf, typeWord, usualFormat } from '@cendra/core';
import type { Bench } from '../bench/use-bench';
import { RoleGlyph } from '../ui/glyphs';
import { WORDS } from '../ui/words';
import { movedTo, orderEdit } from './order';

interface FieldLinesProps {
  readonly bench: Bench;
  readonly fields: readonly SheetField[];
  readonly chosen: string | undefined;
  readonly onChoose: (id: string) => void;
}

/** The fields in the order they are handed over, moved by dragging or with Alt and the arrow keys; those for use only stand below. */
export function FieldLines({ bench, fields, chosen, onChoose }: FieldLinesProps) {
  const handed = fields.filter((each) => !each.forUseOnly);
  const rest = fields.filter((each) => each.forUseOnly);
  const ids = handed.map((each) => each.id);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const list = useRef<HTMLDivElement>(null);
  const put = (id: string, at: number) => {
    const to = movedTo(ids, id, at);
    if (to !== ids && !bench.withoutValues) bench.edit(orderEdit(bench.bench.definition, fields, to));
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => over && put(String(active.id), ids.indexOf(String(over.id)));
  const focusLine = (id: string | undefined) => {
    if (id === undefined) return;
    onChoose(id);
    list.current?.querySelector<HTMLElement>(`[data-line="${window.CSS.escape(id)}"]`)?.focus();
  };
  const onKeyDown = (event: React.KeyboardEvent, id: string) => {
    const all = [...ids, ...rest.map((each) => each.id)];
    const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (by === 0) return;
    event.preventDefault();
    if (event.altKey) put(id, ids.indexOf(id) + by);
    else focusLine(all[all.indexOf(id) + by]);
  };
  const line = (field: SheetField) => (
    <Line
      key={field.id}
      bench={bench}
      field={field}
      chosen={field.id === chosen}
      movable={!field.forUseOnly && !bench.withoutValues}
      onChoose={onChoose}
      onKeyDown={onKeyDown}
    />
  );
  return (
    <div ref={list} className="figures">
      <div aria-hidden className={`${COLUMNS} border-b bg-panel py-1 text-meta text-ink-soft`}>
        <span />
        {['name', 'label', 'type', 'role', 'written as', 'totals'].map((each, index) => (
          <span key={each} className={index > 3 ? ROOMY : ''}>
            {each}
          </span>
        ))}
      </div>
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
        <SortableContext items={ids} strategy={verticalListSortingStrategy}>
          <ol aria-label="Fields handed over">{handed.map(line)}</ol>
        </SortableContext>
        {rest.length > 0 && (
          <>
            <p title={WORDS['for use only']} className="border-b bg-panel px-3 py-1 text-meta text-ink-soft">
              For use only: steps may ask about them, and they are not handed over.
            </p>
            <SortableContext items={[]}>
              <ol aria-label="Fields for use only">{rest.map(line)}</ol>
            </SortableContext>
          </>
        )}
      </DndContext>
      <p className="px-3 py-1 text-meta text-ink-faint">Alt+↑↓ moves a field · ↑↓ goes to the next</p>
    </div>
  );
}

/** Without the last two columns where there is no room for them; the card beside says both. */
const COLUMNS =
  'grid grid-cols-[24px_minmax(8rem,1.2fr)_minmax(6rem,1fr)_6.5rem_5rem] items-center gap-2 px-3 @2xl:grid-cols-[24px_minmax(8rem,1.2fr)_minmax(6rem,1fr)_6.5rem_5rem_minmax(6rem,1fr)_minmax(6rem,1fr)]';
const ROOMY = 'hidden @2xl:block';

/** Only what restricts its totals is worth a reader's time. */
function totalsWords({ type, role, addsUp, aggregates }: SheetField): string {
  if (aggregates.length === 0) return 'none';
  const every = aggregates.length === aggregatesOf(type, role, addsUp).length;
  if (addsUp === 'over everything but dates, then last')
    return every ? 'sums of the last date' : `${aggregates.join(', ')}, of the last date`;
  return every ? (addsUp === 'over nothing' ? 'all but sums' : 'all') : aggregates.join(', ');
}

interface LineProps {
  readonly bench: Bench;
  readonly field: SheetField;
  readonly chosen: boolean;
  readonly movable: boolean;
  readonly onChoose: (id: string) => void;
  readonly onKeyDown: (event: React.KeyboardEvent, id: string) => void;
}

function Line({ bench, field, chosen, movable, onChoose, onKeyDown }: LineProps) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: field.id, disabled: !movable });
  const problem = bench.trail.problems.find((each) => each.place.step === undefined && each.place.field === field.id);
  const format = field.format ?? usualFormat(field.field);
  return (
    <li
      ref={setNodeRef}
      aria-current={chosen}
      data-line={field.id}
      tabIndex={chosen ? 0 : -1}
      onClick={() => onChoose(field.id)}
      onFocus={(event) => event.target === event.currentTarget && onChoose(field.id)}
      onKeyDown={(event) => event.target === event.currentTarget && onKeyDown(event, field.id)}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`${COLUMNS} h-8 border-b ${chosen ? 'bg-panel' : ''} ${field.forUseOnly ? 'text-ink-soft' : ''}`}
    >
      <span>
        {movable && (
          <button
            type="button"
            {...attributes}
            {...listeners}
            tabIndex={-1}
            aria-label={`Move ${field.name}`}
            className="flex cursor-grab text-ink-faint hover:text-ink"
          >
            <GripVertical size={16} strokeWidth={1.75} aria-hidden />
          </button>
        )}
      </span>
      <span className="flex min-w-0 items-center gap-2">
        <RoleGlyph role={field.role} />
        <span className="truncate font-mono">{field.name}</span>
        {problem && (
          <span
            className={`font-semibold ${problem.severity === 'hint' ? 'text-ink-soft' : 'text-amber'}`}
            title={problem.message}
            aria-label={problem.message}
          >
            !
          </span>
        )}
      </span>
      <span className="truncate">{field.label}</span>
      <span className="truncate text-ink-soft">{typeWord(field.type)}</span>
      <span className="text-ink-soft">{field.role}</span>
      <span className={`truncate font-mono text-meta ${ROOMY}`}>
        {format ? `${format.pattern}${format.unit === undefined ? '' : ` ${format.unit}`}` : ''}
      </span>
      <span className={`truncate text-meta text-ink-soft ${ROOMY}`}>{field.role === 'measure' ? totalsWords(field) : ''}</span>
    </li>
  );
}
