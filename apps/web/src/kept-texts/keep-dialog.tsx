import { DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import type { KeptTextDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { FailureNotice } from '../ui/notice';
import { Overlay } from '../ui/overlay';
import { Tags } from '../ui/tags';

interface KeepDialogProps {
  readonly source: string;
  readonly text: string;
  /** What it is called unless somebody says otherwise. */
  readonly called: string;
  onKept(kept: KeptTextDto): void;
  onClose(): void;
}

/** Puts a text on the shelf under a name. */
export default function KeepDialog({ source, text, called, onKept, onClose }: KeepDialogProps) {
  const [name, setName] = useState(called);
  const [note, setNote] = useState('');
  const [tags, setTags] = useState<readonly string[]>([]);
  const [keep, keeping] = api.useKeptTextsKeepMutation();
  const save = async () => {
    const answer = await keep({ newKeptTextDto: { source, name: name.trim(), note, tags: [...tags], text } });
    if (!answer.data) return;
    onKept(answer.data);
    onClose();
  };
  return (
    <Overlay place="top" look="w-[34rem] max-w-full" onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <DialogTitle className="border-b px-3 py-2 font-medium">Put this text on the shelf</DialogTitle>
        <div className="space-y-2 px-3 py-3">
          <label className="block">
            <span className="block text-meta text-ink-soft">Name</span>
            <input
              autoFocus
              value={name}
              maxLength={200}
              onChange={(event) => setName(event.target.value)}
              className="h-8 w-full rounded border bg-paper px-2"
            />
          </label>
          <label className="block">
            <span className="block text-meta text-ink-soft">Note: what it is for, and what to know of it</span>
            <textarea
              value={note}
              rows={3}
              maxLength={2_000}
              onChange={(event) => setNote(event.target.value)}
              className="w-full resize-none rounded border bg-paper px-2 py-1"
            />
          </label>
          <Tags tags={tags} onTag={setTags} />
          <p className="text-meta text-ink-soft">Who may use its source sees all of it; others see name and note only.</p>
          <FailureNotice failure={failureOf(keeping.error)} />
        </div>
        <div className="flex justify-end gap-2 border-t px-3 py-2">
          <Button small onClick={onClose}>
            Leave it
          </Button>
          <Button small kind="primary" type="submit" disabled={name.trim() === '' || keeping.isLoading}>
            Put it there
          </Button>
        </div>
      </form>
    </Overlay>
  );
}
