import { lazy, Suspense, useState } from 'react';
import type { CheckedStep } from '@cendra/core';
import { duplicateStepEdit, handOverEdit, moveAlongEdits, readsSource, removeStepEdit } from '@cendra/core';
import type { Act } from './act-menu';
import { ActMenu } from './act-menu';
import { mint } from './mint';
import type { Bench } from './use-bench';

const StepTextDialog = lazy(() => import('./runnable/step-text-dialog'));

interface StepMenuProps {
  readonly bench: Bench;
  readonly checked: CheckedStep;
  readonly onRename: () => void;
}

export function StepMenu({ bench, checked, onRename }: StepMenuProps) {
  const [asSql, setAsSql] = useState(false);
  const acts = () => [
    ...actsOf(bench, checked, onRename),
    { word: 'Show as SQL', does: bench.withoutValues ? undefined : () => setAsSql(true) },
  ];
  return (
    <>
      <ActMenu bench={bench} of={checked.title} acts={acts} className="flex w-6 items-start justify-center pt-2" />
      {asSql && (
        <Suspense fallback={null}>
          <StepTextDialog bench={bench} checked={checked} onClose={() => setAsSql(false)} />
        </Suspense>
      )}
    </>
  );
}

function actsOf({ bench: { definition }, select }: Bench, { step, title }: CheckedStep, onRename: () => void): readonly Act[] {
  const removal = removeStepEdit(definition, step.id);
  const copy = duplicateStepEdit(definition, mint, step.id);
  const last = definition.steps.length === 1;
  const reads = readsSource(step);
  const off = { kind: 'set step', step: step.id, property: 'off', from: step.off, to: !step.off } as const;
  return [
    { word: 'Rename', does: onRename },
    {
      word: step.off ? 'Enable' : 'Disable',
      edits: reads ? undefined : [off],
      asks: step.off ? [`Switch ${title} on?`, 'Switch it on'] : [`Switch ${title} off?`, 'Switch it off'],
    },
    { word: 'Duplicate', edits: copy && [copy], does: copy && (() => select(copy.step.id)) },
    { word: 'Move up', edits: moveAlongEdits(definition, step.id, -1), asks: [`Move ${title} up?`, 'Move it'] },
    { word: 'Move down', edits: moveAlongEdits(definition, step.id, 1), asks: [`Move ${title} down?`, 'Move it'] },
    { word: 'Hand over this step', edits: definition.result === step.id ? undefined : [handOverEdit(definition, step.id)] },
    { word: 'Remove', edits: removal && !last ? [removal] : undefined, asks: [`Remove ${title}?`, 'Remove it'] },
  ];
}
