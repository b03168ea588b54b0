import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useRef } from 'react';
import type { FieldType } from '@cendra/core';
import { isNumber, typeWord } from '@cendra/core';
import type { ResultColumnDto } from '../../api';

export type HeaderAct = 'up' | 'down' | 'unsorted' | 'also' | 'freeze' | 'left' | 'right' | 'hide' | 'profile' | 'wider' | 'narrower';

interface GridHeaderProps {
  readonly column: ResultColumnDto;
  readonly index: number;
  readonly width: number;
  readonly frozenAt: number | undefined;
  readonly isLastFrozen: boolean;
  /** Its place among what the rows are sorted by, and which way. */
  readonly sorted: { readonly place: number; readonly of: number; readonly descending: boolean } | undefined;
  readonly onAct: (act: HeaderAct) => void;
  readonly onWidth: (width: number) => void;
}

/** What can be done with a field's rows, each with its key on the cell. */
const ITEMS: readonly (readonly [HeaderAct, string, string])[] = [
  ['profile', 'Profile of its values', 'P'],
  ['up', 'Sort upwards', 'S'],
  ['down', 'Sort downwards', 'S S'],
  ['also', 'Sort by it as well', 'Shift+S'],
  ['freeze', 'Freeze up to here', 'X'],
  ['left', 'Move left', '['],
  ['right', 'Move right', ']'],
  ['wider', 'Wider', '+'],
  ['narrower', 'Narrower', '−'],
  ['hide', 'Hide', 'H'],
];

export function GridHeader({ column, index, width, frozenAt, isLastFrozen, sorted, onAct, onWidth }: GridHeaderProps) {
  const type = column.type as FieldType;
  const Arrow = sorted?.descending ? ArrowDown : ArrowUp;
  return (
    <div
      role="columnheader"
      aria-colindex={index + 1}
      aria-sort={sorted === undefined ? 'none' : sorted.descending ? 'descending' : 'ascending'}
      style={frozenAt === undefined ? { width } : { width, position: 'sticky', left: frozenAt, zIndex: 15 }}
      className={`relative h-7 shrink-0 bg-panel ${isLastFrozen ? 'border-r-2 border-ink-faint' : 'border-r'}`}
    >
      <Menu>
        <MenuButton
          tabIndex={-1}
          title={`${column.name}, ${typeWord(type)}`}
          className={`flex h-full w-full items-center gap-1 truncate px-2 hover:bg-paper ${isNumber(type) ? 'justify-end' : ''}`}
        >
          {sorted && (
            <span className="inline-flex items-center text-ember">
              <Arrow size={12} strokeWidth={2} aria-hidden />
              {sorted.of > 1 && sorted.place}
            </span>
          )}
          <span className="truncate font-medium">{column.name}</span>
          <span className="truncate text-ink-faint">{typeWord(type)}</span>
          <span className="sr-only">, what to do with it</span>
        </MenuButton>
        <MenuItems anchor="bottom start" className="z-40 min-w-56 rounded border bg-paper py-1 shadow-md">
          {ITEMS.map(([act, words, key]) => (
            <MenuItem key={act}>
              <button
                type="button"
                onClick={() => onAct(act)}
                className="flex w-full justify-between gap-4 px-3 py-1 text-left data-focus:bg-panel"
              >
                {act === 'freeze' && isLastFrozen
                  ? 'Freeze nothing'
                  : act === 'up' && sorted && !sorted.descending
                    ? 'Sorted upwards'
                    : words}
                <span className="text-meta text-ink-soft">{key}</span>
              </button>
            </MenuItem>
          ))}
          {sorted && (
            <MenuItem>
              <button type="button" onClick={() => onAct('unsorted')} className="w-full px-3 py-1 text-left data-focus:bg-panel">
                As the rows come
              </button>
            </MenuItem>
          )}
        </MenuItems>
      </Menu>
      <Edge width={width} name={column.name} onWidth={onWidth} />
    </div>
  );
}

/** The right edge, dragged to another width. */
function Edge({ width, name, onWidth }: { readonly width: number; readonly name: string; readonly onWidth: (width: number) => void }) {
  const from = useRef<{ readonly x: number; readonly width: number }>(undefined);
  return (
    <div
      role="separator"
      aria-orientation="vertical"
      aria-label={`Width of ${name}`}
      aria-valuenow={width}
      title="Drag for another width"
      onPointerDown={(event) => {
        event.preventDefault();
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { x: event.clientX, width };
      }}
      onPointerMove={(event) => from.current && onWidth(from.current.width + event.clientX - from.current.x)}
      onPointerUp={() => (from.current = undefined)}
      className="absolute top-0 right-0 h-full w-1.5 cursor-col-resize hover:bg-ember"
    />
  );
}
