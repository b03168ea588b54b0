import { DialogTitle } from '@headlessui/react';
import type { CheckedStep } from '@cendra/core';
import { Button } from '../../ui/button';
import { Overlay } from '../../ui/overlay';
import type { Bench } from '../use-bench';
import StepText from './step-text';

interface StepTextDialogProps {
  readonly bench: Bench;
  readonly checked: CheckedStep;
  readonly onClose: () => void;
}

/** The text of SQL a step comes to, with all it stands on. */
export default function StepTextDialog({ bench, checked, onClose }: StepTextDialogProps) {
  return (
    <Overlay place="top" look="flex w-[56rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">“{checked.title}” as SQL, with all it stands on</DialogTitle>
      <div className="min-h-0 overflow-auto px-3 py-2">
        <StepText bench={bench} checked={checked} />
      </div>
      <div className="flex justify-end border-t px-3 py-2">
        <Button small onClick={onClose}>
          Close
        </Button>
      </div>
    </Overlay>
  );
}
