import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { MoreVertical } from 'lucide-react';
import { memo, useState } from 'react';
import type { Edit } from '@cendra/core';
import { ConfirmDialog } from '../ui/confirm-dialog';
import { useSteady } from '../ui/steady';
import { brokenBy } from './broken-by';
import { showsSame } from './shows-same';
import type { Bench } from './use-bench';

/** Something that can be done with a thing. Edits that would break something are asked about first, naming what. */
export interface Act {
  readonly word: string;
  /** Left out while it cannot be done. */
  readonly does?: (() => void) | undefined;
  readonly edits?: readonly Edit[] | undefined;
  /** What is asked, and on the button that does it; left out, the word serves for both. */
  readonly asks?: readonly [string, string];
}

interface ActMenuProps {
  readonly bench: Bench;
  /** What the acts are done with, by name. */
  readonly of: string;
  /** Worked out only while the menu is open. */
  readonly acts: () => readonly Act[];
  readonly className?: string;
}

interface Asked {
  readonly title: string;
  readonly action: string;
  readonly edits: readonly Edit[];
  readonly broken: readonly string[];
}

const ITEM = 'block w-full px-3 py-1.5 text-left data-focus:bg-panel data-disabled:opacity-50';

/** A menu of what can be done with a thing. */
export function ActMenu({ acts, ...shown }: ActMenuProps) {
  return <StillMenu {...shown} acts={useSteady(acts)} />;
}

// Every step and line has one: each is drawn again only where what it offers is other.
const StillMenu = memo(function StillMenu({ bench, of, acts, className = 'flex size-6 items-center justify-center' }: ActMenuProps) {
  const [asked, setAsked] = useState<Asked>();
  return (
    <>
      <Menu>
        <MenuButton aria-label={`What to do with ${of}`} className={`${className} text-ink-faint hover:text-ink`}>
          <MoreVertical size={16} strokeWidth={1.75} aria-hidden />
        </MenuButton>
        <MenuItems anchor="bottom end" className="z-40 min-w-44 rounded border bg-paper py-1 shadow-md">
          <Acts bench={bench} acts={acts} onAsk={setAsked} />
        </MenuItems>
      </Menu>
      {asked && (
        <ConfirmDialog
          open
          title={asked.title}
          action={asked.action}
          onConfirm={() => bench.edit(...asked.edits)}
          onClose={() => setAsked(undefined)}
        >
          {asked.broken.join(' ')}
        </ConfirmDialog>
      )}
    </>
  );
}, showsSame);

function Acts({ bench, acts, onAsk }: Pick<ActMenuProps, 'bench' | 'acts'> & { readonly onAsk: (asked: Asked) => void }) {
  const act = ({ word, does, edits, asks: [title, action] = [`${word}?`, word] }: Act) => {
    if (!edits) return does?.();
    const broken = brokenBy(bench, edits);
    if (broken.length > 0) return onAsk({ title, action, edits, broken });
    bench.edit(...edits);
    does?.();
  };
  return acts().map((each) => (
    <MenuItem key={each.word} disabled={!each.does && !each.edits}>
      <button type="button" className={ITEM} onClick={() => act(each)}>
        {each.word}
      </button>
    </MenuItem>
  ));
}
