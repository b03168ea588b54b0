import { DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import type { SheetField } from '@cendra/core';
import { Button } from '../ui/button';
import { Overlay } from '../ui/overlay';
import { Tick } from '../ui/tick';

interface SeveralFieldsProps {
  /** On the button that opens the list, and above it. */
  readonly says: string;
  /** What is done to those that are ticked: “Write 3 fields so”. */
  readonly does: (count: number) => string;
  readonly fields: readonly SheetField[];
  /** So many may be ticked. */
  readonly most: number;
  readonly onKeep: (fields: readonly SheetField[]) => void;
}

/** What was said of one field said of others as well, all at once. */
export function SeveralFields({ says, does, fields, most, onKeep }: SeveralFieldsProps) {
  const [open, setOpen] = useState(false);
  const [ticked, setTicked] = useState<readonly string[]>([]);
  const close = () => {
    setOpen(false);
    setTicked([]);
  };
  const kept = fields.filter((each) => ticked.includes(each.id));
  const all = kept.length === fields.length;
  if (fields.length === 0 || most < 1) return null;
  return (
    <>
      <Button small kind="quiet" onClick={() => setOpen(true)}>
        {says}
      </Button>
      {open && (
        <Overlay place="middle" look="flex w-full max-w-md flex-col gap-3 p-4" onClose={close}>
          <DialogTitle className="text-section font-medium">{says}</DialogTitle>
          <label className="flex items-center gap-2 border-b pb-2">
            <Tick checked={all} label="All of them" onChange={(on) => setTicked(on ? fields.map((each) => each.id) : [])} />
            All {fields.length} of them
          </label>
          <ul className="min-h-0 space-y-1 overflow-auto">
            {fields.map(({ id, label, name }) => (
              <li key={id}>
                <label className="flex items-center gap-2">
                  <Tick
                    checked={ticked.includes(id)}
                    label={`${label}, ${name}`}
                    onChange={(on) => setTicked(on ? [...ticked, id] : ticked.filter((each) => each !== id))}
                  />
                  {label} <span className="font-mono text-meta text-ink-soft">{name}</span>
                </label>
              </li>
            ))}
          </ul>
          {kept.length > most && (
            <p role="status" className="text-amber">
              {most} at most.
            </p>
          )}
          <div className="flex justify-end gap-2">
            <Button small onClick={close}>
              Cancel
            </Button>
            <Button
              small
              kind="primary"
              disabled={kept.length === 0 || kept.length > most}
              onClick={() => {
                onKeep(kept);
                close();
              }}
            >
              {does(kept.length)}
            </Button>
          </div>
        </Overlay>
      )}
    </>
  );
}
