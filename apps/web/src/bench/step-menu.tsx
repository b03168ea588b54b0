import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { MoreVertical } from 'lucide-react';
import { useState } from 'react';
import type { CheckedStep, Edit } from '@cendra/core';
import { duplicateStepEdit, handOverEdit, moveAlongEdits, removeStepEdit } from '@cendra/core';
import { ConfirmDialog } from '../ui/confirm-dialog';
import { brokenBy } from './broken-by';
import { mint } from './mint';
import type { Bench } from './use-bench';

interface StepMenuProps {
  readonly bench: Bench;
  readonly checked: CheckedStep;
  readonly onRename: () => void;
}

/** An act that breaks something is asked about, naming what. */
interface Asked {
  readonly title: string;
  readonly action: string;
  readonly edits: readonly Edit[];
  readonly broken: readonly string[];
}

const ITEM = 'block w-full px-3 py-1.5 text-left data-focus:bg-panel data-disabled:opacity-50';

export function StepMenu({ bench, checked, onRename }: StepMenuProps) {
  const [asked, setAsked] = useState<Asked>();
  return (
    <>
      <Menu>
        <MenuButton
          aria-label={`What to do with ${checked.title}`}
          className="flex w-6 items-start justify-center pt-2 text-ink-faint hover:text-ink"
        >
          <MoreVertical size={16} strokeWidth={1.75} aria-hidden />
        </MenuButton>
        <MenuItems anchor="bottom end" className="z-40 min-w-44 rounded border bg-paper py-1 shadow-md">
          <Acts bench={bench} checked={checked} onRename={onRename} onAsk={setAsked} />
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
}

/** What can be done with the step; worked out only while the menu is open. */
function Acts({ bench, checked, onRename, onAsk }: StepMenuProps & { readonly onAsk: (asked: Asked) => void }) {
  const { edit, bench: open, select } = bench;
  const { definition } = open;
  const { step, title } = checked;
  const removal = removeStepEdit(definition, step.id);
  const up = moveAlongEdits(definition, step.id, -1);
  const down = moveAlongEdits(definition, step.id, 1);
  const copy = duplicateStepEdit(definition, mint, step.id);
  const last = definition.steps.length === 1;
  const act = (words: string, action: string, edits: readonly Edit[]) => {
    const broken = brokenBy(bench, edits);
    if (broken.length === 0) edit(...edits);
    else onAsk({ title: words, action, edits, broken });
  };
  const items: readonly (readonly [string, (() => void) | undefined])[] = [
    ['Rename', onRename],
    [
      step.off ? 'Enable' : 'Disable',
      step.inputs.length === 0
        ? undefined
        : () => edit({ kind: 'set step', step: step.id, property: 'off', from: step.off, to: !step.off }),
    ],
    [
      'Duplicate',
      copy &&
        (() => {
          edit(copy);
          select(copy.step.id);
        }),
    ],
    ['Move up', up && (() => act(`Move ${title} up?`, 'Move it', up))],
    ['Move down', down && (() => act(`Move ${title} down?`, 'Move it', down))],
    ['Hand over this step', definition.result === step.id ? undefined : () => edit(handOverEdit(definition, step.id))],
    ['Remove', removal && !last ? () => act(`Remove ${title}?`, 'Remove it', [removal]) : undefined],
  ];
  return items.map(([word, does]) => (
    <MenuItem key={word} disabled={!does}>
      <button type="button" className={ITEM} onClick={does}>
        {word}
      </button>
    </MenuItem>
  ));
}
