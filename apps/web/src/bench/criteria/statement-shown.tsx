import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react';
import { useMemo } from 'react';
import type { CheckedStep } from '@cendra/core';
import { bindDefinition, compile, duckdb, handedOn, planRows, postgresql, relationAfter } from '@cendra/core';
import { nowMicros } from '../../ui/now';
import type { Bench } from '../use-bench';

/** The statement the step makes with the values now in use, as it goes to the source. */
export function StatementShown({ bench, checked }: { readonly bench: Bench; readonly checked: CheckedStep }) {
  const { trail, values } = bench;
  const statement = useMemo(() => {
    const binding = bindDefinition(trail.definition, values, nowMicros());
    const columns = handedOn(trail, checked.step.id);
    if (checked.blocked || binding.problems.length > 0 || columns.length === 0) return undefined;
    const plan = planRows(relationAfter(trail, checked.step.id, binding), columns, undefined, (site) =>
      site.kind === 'combine' ? duckdb : postgresql('numbered'),
    );
    const [fragment] = plan.fragments;
    return fragment && compile(fragment.relation, postgresql('numbered'), binding);
  }, [trail, values, checked]);
  return (
    <Disclosure as="div" className="mt-3 border-t pt-2">
      <DisclosureButton className="text-ink-soft underline underline-offset-2">The statement it makes</DisclosureButton>
      <DisclosurePanel className="mt-1">
        {statement ? (
          <pre tabIndex={0} aria-label="Statement" className="overflow-auto border bg-panel p-2 font-mono text-meta whitespace-pre-wrap">
            {statement.text}
            {statement.values.map(
              ({ value }, index) => `\n-- $${index + 1} = ${typeof value === 'string' ? value : `${value.length} values`}`,
            )}
          </pre>
        ) : (
          <p className="text-ink-soft">There is none before the step is without errors, has a field, and its values are filled.</p>
        )}
      </DisclosurePanel>
    </Disclosure>
  );
}
