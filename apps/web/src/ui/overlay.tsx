import { Dialog, DialogPanel } from '@headlessui/react';

interface OverlayProps {
  readonly open?: boolean;
  /** Lists that change as one types stand at the top, where they do not jump. */
  readonly place: 'top' | 'middle';
  /** Width and inner layout of the panel. */
  readonly look: string;
  readonly onClose: () => void;
  /** What it holds, with a DialogTitle. */
  readonly children: React.ReactNode;
}

/** A panel over the page, which waits behind it. */
export function Overlay({ open = true, place, look, onClose, children }: OverlayProps) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-ink/20" aria-hidden />
      <div className={`fixed inset-0 flex justify-center p-12 max-md:p-4 ${place === 'top' ? 'items-start' : 'items-center'}`}>
        <DialogPanel className={`max-h-full rounded border bg-paper shadow-md ${look}`}>{children}</DialogPanel>
      </div>
    </Dialog>
  );
}
