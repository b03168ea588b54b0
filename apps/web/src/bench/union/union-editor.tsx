import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import type { CheckedOf, Partner, UnionField, UnionStep } from '@cendra/core';
import { addItem, checkedOf, linedUp, partnerInput, withInputLinedUp, withoutInputEdits } from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import { Tick } from '../../ui/tick';
import { StatementShown } from '../runnable/statement-shown';
import { FailedRows } from '../failed-rows';
import { PartnerDialog } from '../join/bring-in';
import { mint } from '../mint';
import { ChoiceSlot } from '../slots';
import type { StepEditorProps } from '../step-kind';
import { FieldLine, SourceLine } from './field-line';
import { LinedCells } from './lined-cells';

/** Rows on top of one another: a ledger of fields, one line each, with what it is in every input. */
export default function UnionEditor(props: StepEditorProps) {
  const union = checkedOf('union', props.checked);
  return union && <Union {...props} union={union} />;
}

type UnionProps = StepEditorProps & { readonly union: CheckedOf<'union'> };

function Union({ bench, checked, union, counts, onFailed }: UnionProps) {
  const { edit, withoutValues } = bench;
  const { step, arriving, problems } = union;
  const [adding, setAdding] = useState(false);
  const set = (property: 'once' | 'source' | 'fields', from: unknown, to: unknown) =>
    edit({ kind: 'set step', step: step.id, property, from, to });
  const rows = arriving.map((each, slot) => each.grain.rows || `input ${slot + 1}`);
  const general = problems.filter(({ place }) => place.field === undefined);
  return (
    <div className="px-3 py-2">
      <p className="flex flex-wrap items-center gap-2">
        {rows.join(', then ')}, keeping
        <ChoiceSlot
          label="Which rows are kept"
          value={step.once ? 'repeated rows once' : 'all rows'}
          choices={['all rows', 'repeated rows once']}
          disabled={withoutValues}
          onChange={(choice) => set('once', step.once, choice === 'repeated rows once')}
        />
        <label className="flex items-center gap-1">
          <Tick
            checked={step.source !== null}
            label="say where each row came from"
            disabled={withoutValues}
            onChange={(on) => set('source', step.source, on ? { id: mint(), name: 'came_from', words: rows } : null)}
          />
          say where each row came from
        </label>
      </p>
      <LinedCells bench={bench} union={union}>
        <table className="w-full border-t" aria-label="Stacked fields">
          <thead className="text-left text-meta text-ink-soft">
            <tr className="border-b">
              <th className="py-0.5 font-normal">field</th>
              {rows.map((each, slot) => (
                <th key={slot} className="font-normal">
                  {each}
                  {rows.length > 2 && !withoutValues && (
                    <button
                      type="button"
                      aria-label={`Take ${each} out, input ${slot + 1}`}
                      onClick={() => bench.edit(...withoutInputEdits(bench.trail.definition, step, slot))}
                      className="ml-1 p-0.5 align-middle text-ink-faint hover:text-ink"
                    >
                      <X size={14} strokeWidth={1.75} aria-hidden />
                    </button>
                  )}
                </th>
              ))}
              <th className="font-normal">type</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {step.fields.map((field) => (
              <FieldLine key={field.id} bench={bench} union={union} field={field} />
            ))}
            {step.source && <SourceLine bench={bench} union={union} source={step.source} />}
          </tbody>
        </table>
      </LinedCells>
      {!withoutValues && (
        <div className="mt-2 flex flex-wrap items-center gap-2">
          <Button
            small
            icon={Plus}
            onClick={() => {
              const field: UnionField = { id: mint(), name: freeName(step), from: arriving.map(() => null), as: null };
              edit(addItem(step, 'fields', field, step.fields.length));
            }}
          >
            Add a field
          </Button>
          <Button small onClick={() => set('fields', step.fields, linedUp(mint, arriving))}>
            Line up by name again
          </Button>
          <Button small onClick={() => setAdding(true)}>
            One more input …
          </Button>
          <span className="text-meta text-ink-faint">A field is dragged to the line it belongs to, or moved with Alt+↑↓.</span>
        </div>
      )}
      {general.map((problem, index) => (
        <div key={index} role="alert" className="mt-2">
          <ProblemLine problem={problem} />
        </div>
      ))}
      {adding && <OneMore bench={bench} union={union} onDone={() => setAdding(false)} />}
      <FailedRows count={counts[step.id]} what="could not be converted" onShow={onFailed} />
      {!withoutValues && <StatementShown bench={bench} checked={checked} />}
    </div>
  );
}

/** Stacks one more step or table, its fields lined up by name. */
function OneMore({ bench, union, onDone }: Pick<UnionProps, 'bench' | 'union'> & { readonly onDone: () => void }) {
  const { step } = union;
  const { definition, steps } = bench.trail;
  const at = definition.steps.findIndex((each) => each.id === step.id);
  const choose = (partner: Partner) => {
    const { edits: table, step: id, arriving: next } = partnerInput(definition, bench.catalogue, partner, at);
    const slot = step.inputs.length;
    bench.edit(
      ...table,
      { kind: 'set input', step: step.id, slot, from: null, to: id },
      {
        kind: 'set step',
        step: step.id,
        property: 'fields',
        from: step.fields,
        to: withInputLinedUp(mint, step.fields, slot, next),
      },
    );
  };
  return (
    <PartnerDialog
      bench={{ ...bench, trail: { ...bench.trail, steps: steps.slice(0, at) } }}
      after={union}
      title="What is stacked behind"
      onChoose={choose}
      onDone={onDone}
    />
  );
}

function freeName({ fields }: UnionStep): string {
  const names = new Set(fields.map((each) => each.name));
  for (let number = fields.length + 1; ; number++) if (!names.has(`field_${number}`)) return `field_${number}`;
}
