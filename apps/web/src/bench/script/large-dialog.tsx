import { DialogTitle } from '@headlessui/react';
import { Button } from '../../ui/button';
import { Overlay } from '../../ui/overlay';
import { BehindStatement } from './behind-statement';
import type { BehindStatementProps } from './behind-statement';

interface LargeDialogProps extends BehindStatementProps {
  onChoose(number: number): void;
  onClose(): void;
}

/** What stood behind a statement with room for it, and the statements before and behind one key away. */
export default function LargeDialog({ onChoose, onClose, ...behind }: LargeDialogProps) {
  const { told, statement } = behind;
  const last = told.statements.length;
  return (
    <Overlay place="top" look="flex h-[80vh] w-[72rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">
        Behind statement {statement.number} of {last}
      </DialogTitle>
      <BehindStatement {...behind} />
      <div className="flex justify-end gap-2 border-t px-3 py-2">
        <Button small disabled={statement.number === 1} onClick={() => onChoose(statement.number - 1)}>
          The one before
        </Button>
        <Button small disabled={statement.number === last} onClick={() => onChoose(statement.number + 1)}>
          The next one
        </Button>
        <Button small onClick={onClose}>
          Close
        </Button>
      </div>
    </Overlay>
  );
}
