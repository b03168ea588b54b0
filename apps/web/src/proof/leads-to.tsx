import { DialogTitle } from '@headlessui/react';
import { useState } from 'react';
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
  const [copied, setCopied] = useState(false);
  return (
    <Overlay place="top" look="w-[40rem] max-w-full" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">Where {words} leads to</DialogTitle>
      <p className="px-3 py-3 font-mono break-all">{address}</p>
      <div className="flex items-center justify-end gap-2 border-t px-3 py-2">
        <span role="status" className="mr-auto text-ink-soft">
          {copied ? 'Copied.' : 'It opens beside this page.'}
        </span>
        <Button small onClick={() => void navigator.clipboard.writeText(address).then(() => setCopied(true))}>
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
