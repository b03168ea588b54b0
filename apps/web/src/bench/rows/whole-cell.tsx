import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import { grouped } from '../../ui/format';
import { Waiting } from '../../ui/waiting';

interface WholeCellProps {
  readonly result: string;
  readonly row: string;
  readonly field: string;
  readonly name: string;
  readonly onClose: () => void;
}

/** What is rendered at once of a very long text; the take-away has all of it. */
const SHOWN = 200_000;

/** The whole text of a cell that the grid shows cut. */
export function WholeCell({ result, row, field, name, onClose }: WholeCellProps) {
  const cell = api.useResultsCellQuery({ id: result, row, field });
  const text = cell.data?.text ?? '';
  return (
    <Dialog open onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-ink/20" aria-hidden />
      <div className="fixed inset-0 flex items-center justify-center p-8">
        <DialogPanel className="flex max-h-full w-full max-w-3xl flex-col gap-2 rounded border bg-paper p-4 shadow-md">
          <DialogTitle className="font-medium">{name}</DialogTitle>
          {cell.data ? (
            <pre tabIndex={0} className="min-h-0 overflow-auto border bg-panel p-2 font-mono text-meta break-words whitespace-pre-wrap">
              {text.slice(0, SHOWN)}
            </pre>
          ) : cell.error ? (
            <FailureNotice failure={failureOf(cell.error)} />
          ) : (
            <Waiting what="Reading the text" />
          )}
          {cell.data && cell.data.length > Math.min(text.length, SHOWN) && (
            <p className="text-meta text-ink-soft">
              The first {grouped(Math.min(text.length, SHOWN))} of {grouped(cell.data.length)} characters; the take-away of all rows has
              them all.
            </p>
          )}
          <Button onClick={onClose}>Close</Button>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
