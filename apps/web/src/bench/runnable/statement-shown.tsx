import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react';
import { lazy, Suspense } from 'react';
import type { CheckedStep } from '@cendra/core';
import type { Bench } from '../use-bench';
import { usePlan } from './use-plan';

const StepText = lazy(() => import('./step-text'));

/** Below a step's editor: the text of SQL it comes to with the values now in use. */
export function StatementShown({ bench, checked }: { readonly bench: Bench; readonly checked: CheckedStep }) {
  const shown = usePlan(bench, checked);
  return (
    <Disclosure as="div" className="mt-3 border-t pt-2">
      <DisclosureButton className="text-ink-soft underline underline-offset-2">
        {(shown?.plan.stages.length ?? 1) > 1 ? 'The statements it makes' : 'The statement it makes'}
      </DisclosureButton>
      <DisclosurePanel className="mt-1">
        <Suspense fallback={null}>
          <StepText bench={bench} checked={checked} />
        </Suspense>
      </DisclosurePanel>
    </Disclosure>
  );
}
