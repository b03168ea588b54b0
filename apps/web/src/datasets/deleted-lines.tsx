import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { clock } from '../ui/format';
import { FailureNotice } from '../ui/notice';

/** Datasets that were deleted and can still be taken back. */
export function DeletedLines() {
  const deleted = api.useDatasetsDeletedQuery(undefined, { refetchOnMountOrArgChange: true });
  const [takeBack, taking] = api.useDatasetsTakeBackMutation();
  if (!deleted.data || deleted.data.length === 0) return null;
  return (
    <Disclosure as="section" className="mt-6">
      <DisclosureButton className="text-ink-soft underline-offset-2 hover:underline">
        {deleted.data.length} deleted, kept for 30 days
      </DisclosureButton>
      <DisclosurePanel as="ul" className="mt-1 border-t">
        {deleted.data.map(({ id, title, changedAt }) => (
          <li key={id} className="figures flex items-center gap-3 border-b py-1 text-ink-soft">
            <span className="mr-auto">{title}</span>
            <span>last changed {clock(changedAt)}</span>
            <Button small onClick={() => void takeBack({ id })}>
              Take back
            </Button>
          </li>
        ))}
        <FailureNotice failure={failureOf(taking.error)} />
      </DisclosurePanel>
    </Disclosure>
  );
}
