import { DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import { toClipboard } from '../bench/rows/copy';
import { Button } from '../ui/button';
import { Overlay } from '../ui/overlay';

interface LeadsToProps {
  readonly address: string;
  /** What leads there, as it is read. */
  readonly words: string;
  readonly onClose: () => void;
}

/** Where a value leads to, shown before it is followed. */
export function LeadsTo({ address, words, onClose }: LeadsToProps) {
  const [said, setSaid] = useState('It opens beside this page.');
  const copy = () =>
    toClipboard(address).then(
      () => setSaid('Copied.'),
      () => setSaid('The browser did not let it onto the clipboard.'),
    );
  return (
    <Overlay place="top" look="w-[40rem] max-w-full" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">Where {words} leads to</DialogTitle>
      <p className="px-3 py-3 font-mono break-all">{address}</p>
      <div className="flex items-center justify-end gap-2 border-t px-3 py-2">
        <span role="status" className="mr-auto text-ink-soft">
          {said}
        </span>
        <Button small onClick={() => void copy()}>
          Copy the address
        </Button>
        <a
          href={address}
          target="_blank"
          rel="noopener noreferrer"
          onClick={onClose}
          className="inline-flex h-6 items-center rounded border border-ember bg-ember px-2 font-medium whitespace-nowrap text-on-ember hover:brightness-95"
        >
          Follow it
        </a>
        <Button small onClick={onClose}>
          Close
        </Button>
      </div>
    </Overlay>
  );
}
