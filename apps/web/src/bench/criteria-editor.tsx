import { Plus } from 'lucide-react';
import { useMemo } from 'react';
import type { CheckedStep, Clause, CriteriaStep, Edit, Schema } from '@cendra/core';
import {
  blankCondition,
  bindValues,
  checkedStep,
  compile,
  HEADS,
  planRows,
  postgresql,
  duckdb,
  relationAfter,
  handedOn,
} from '@cendra/core';
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react';
import { Button } from '../ui/button';
import { ClauseLine } from './clause-line';
import { mint } from './mint';
import { ChoiceSlot } from './slots';
import type { Bench } from './use-bench';

interface CriteriaEditorProps {
  readonly bench: Bench;
  readonly checked: CheckedStep;
  readonly step: CriteriaStep;
}

/** Criteria as a sentence with numbered clauses; each variable part is a slot. */
export function CriteriaEditor({ bench, checked, step }: CriteriaEditorProps) {
  const { edit, withoutValues, trail } = bench;
  const schema = checkedStep(trail, step.inputs[0] ?? '')?.schema ?? { fields: [] };
  const place = { step: step.id };
  const change = (from: Clause, to: Clause, ...more: Edit[]) => edit(...more, { kind: 'set clause', ...place, from, to });
  return (
    <div className="px-3 py-2">
      <p className="flex items-center gap-1">
        Keep rows where
        <ChoiceSlot
          label="How the clauses belong together"
          value={step.head}
          choices={HEADS}
          disabled={withoutValues}
          onChange={(head) => edit({ kind: 'set step', ...place, property: 'head', from: step.head, to: head })}
        />
        holds:
      </p>
      <ol className="mt-2 border-t" aria-label="Clauses">
        {step.clauses.map((clause, index) => (
          <ClauseLine
            key={clause.id}
            bench={bench}
            number={index + 1}
            clause={clause}
            schema={schema}
            problem={checked.problems.find((each) => each.place.clause === clause.id)}
            onChange={(to, ...more) => change(clause, to, ...more)}
            onRemove={() => edit({ kind: 'remove clause', ...place, clause, index })}
          />
        ))}
      </ol>
      {!withoutValues && (
        <div className="mt-2">
          <Button
            small
            icon={Plus}
            onClick={() => edit({ kind: 'add clause', ...place, clause: blankCondition(mint), index: step.clauses.length })}
          >
            Add a clause
          </Button>
        </div>
      )}
      {!withoutValues && <StatementShown bench={bench} checked={checked} schema={schema} />}
    </div>
  );
}

/** The statement the step makes with the values now in use, as it goes to the source. */
function StatementShown({ bench, checked }: { readonly bench: Bench; readonly checked: CheckedStep; readonly schema: Schema }) {
  const { trail, values } = bench;
  const statement = useMemo(() => {
    const binding = bindValues(trail.definition.parameters, values);
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
