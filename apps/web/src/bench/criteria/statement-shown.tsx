import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react';
import { useMemo } from 'react';
import type { CheckedStep, Stage } from '@cendra/core';
import { compile, shownDialect } from '@cendra/core';
import type { Bench } from '../use-bench';
import type { PlanShown } from '../use-plan';
import { usePlan } from '../use-plan';

/** The statements a step makes with the values now in use, each as it goes to its place. */
export function StatementShown({ bench, checked }: { readonly bench: Bench; readonly checked: CheckedStep }) {
  const shown = usePlan(bench, checked);
  return (
    <Disclosure as="div" className="mt-3 border-t pt-2">
      <DisclosureButton className="text-ink-soft underline underline-offset-2">
        {(shown?.plan.stages.length ?? 1) > 1 ? 'The statements it makes' : 'The statement it makes'}
      </DisclosureButton>
      <DisclosurePanel className="mt-1 space-y-2">
        {shown ? (
          shown.plan.stages.map((stage) => <StageShown key={stage.result} stage={stage} shown={shown} />)
        ) : (
          <p className="text-ink-soft">There is none before the step is without errors, has a field, and its values are filled.</p>
        )}
      </DisclosurePanel>
    </Disclosure>
  );
}

function StageShown({ stage, shown }: { readonly stage: Stage; readonly shown: PlanShown }) {
  const { plan, binding, kindOf, nameOf } = shown;
  const { site, relation, keys } = stage;
  const statement = useMemo(() => {
    const dialect = shownDialect(site.kind === 'combine' ? undefined : kindOf(site.source));
    // Keys of another stage are not known before it has run.
    const bound = keys ? new Map([...binding.bound, [keys.list, { takes: 'several' as const, values: [] }]]) : binding.bound;
    return compile(relation, dialect, { ...binding, bound });
  }, [site, relation, keys, binding, kindOf]);
  return (
    <>
      {plan.stages.length > 1 && (
        <p className="text-meta text-ink-soft">
          {site.kind === 'combine' ? 'In the combine engine' : `In ${nameOf(site.source)}`}
          {keys && `, by the keys of ${keys.of}, where there are at most ${keys.most}`}
        </p>
      )}
      <pre tabIndex={0} aria-label="Statement" className="overflow-auto border bg-panel p-2 font-mono text-meta whitespace-pre-wrap">
        {statement.text}
        {statement.values.map(({ value }, index) => `\n-- $${index + 1} = ${typeof value === 'string' ? value : `${value.length} values`}`)}
      </pre>
    </>
  );
}
