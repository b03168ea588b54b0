import { DialogTitle } from '@headlessui/react';
import { Button } from './button';
import { Overlay } from './overlay';

interface ConfirmDialogProps {
  readonly open: boolean;
  readonly title: string;
  readonly action: string;
  readonly children: React.ReactNode;
  readonly onConfirm: () => void;
  readonly onClose: () => void;
}

/** Asks once before something that cannot be undone, naming what is lost. */
export function ConfirmDialog({ open, title, action, children, onConfirm, onClose }: ConfirmDialogProps) {
  return (
    <Overlay open={open} place="middle" look="max-w-md space-y-3 p-4" onClose={onClose}>
      <DialogTitle className="text-section font-medium">{title}</DialogTitle>
      <p>{children}</p>
      <div className="flex gap-2">
        <Button
          kind="danger"
          onClick={() => {
            onClose();
            onConfirm();
          }}
        >
          {action}
        </Button>
        <Button onClick={onClose} autoFocus>
          Keep it
        </Button>
      </div>
    </Overlay>
  );
}
