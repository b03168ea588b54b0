import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { Button } from './button';

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
    <Dialog open={open} onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-ink/20" aria-hidden />
      <div className="fixed inset-0 flex items-center justify-center">
        <DialogPanel className="max-w-md space-y-3 rounded border bg-paper p-4 shadow-md">
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
        </DialogPanel>
      </div>
    </Dialog>
  );
}
