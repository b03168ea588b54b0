import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { MoreVertical } from 'lucide-react';
import { memo } from 'react';
import same from 'react-fast-compare';
import type { Clause } from '@cendra/core';
import { useSteady } from '../../ui/steady';

export const CLAUSE_ACTS = ['written', 'up', 'down', 'add', 'off', 'parameter', 'group', 'remove'] as const;
export type ClauseAct = (typeof CLAUSE_ACTS)[number];

interface ClauseMenuProps {
  readonly number: string;
  readonly clause: Clause;
  readonly can: readonly ClauseAct[];
  readonly onAct: (what: ClauseAct) => void;
}

/** What can be done with a clause; each has its key in the line itself. */
export function ClauseMenu({ onAct, ...shown }: ClauseMenuProps) {
  return <StillMenu {...shown} onAct={useSteady(onAct)} />;
}

// Every clause has one: each is drawn again only where what it offers is other.
const StillMenu = memo(function StillMenu({ number, clause, can, onAct }: ClauseMenuProps) {
  const asks = clause.kind === 'condition' && clause.operands[0]?.kind === 'parameter';
  const items: readonly (readonly [ClauseAct, string, string])[] = [
    ['written', clause.kind === 'expression' ? 'As slots' : 'As an expression', 'F2'],
    ['parameter', asks ? 'Values instead of the parameter' : 'Make a parameter of its values', 'Alt+P'],
    ['off', clause.off ? 'Switch on' : 'Switch off', 'Alt+O'],
    ['group', clause.kind === 'group' ? 'Take the group apart' : 'Into a group', 'Alt+G'],
    ['up', 'Move up', 'Alt+↑'],
    ['down', 'Move down', 'Alt+↓'],
    ['add', 'Add a clause behind', 'Alt+Enter'],
    ['remove', 'Remove', 'Alt+Delete'],
  ];
  return (
    <Menu>
      <MenuButton
        aria-label={`What to do with clause ${number}`}
        className="flex size-6 shrink-0 items-center justify-center text-ink-faint hover:text-ink"
      >
        <MoreVertical size={16} strokeWidth={1.75} aria-hidden />
      </MenuButton>
      <MenuItems anchor="bottom end" className="z-40 min-w-64 rounded border bg-paper py-1 shadow-md">
        {items.map(([what, words, key]) => (
          <MenuItem key={what} disabled={!can.includes(what)}>
            <button
              type="button"
              onClick={() => onAct(what)}
              className="flex w-full justify-between gap-4 px-3 py-1 text-left data-disabled:opacity-50 data-focus:bg-panel"
            >
              {words} <span className="text-meta text-ink-soft">{key}</span>
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}, same);
