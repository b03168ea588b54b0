import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import type { Arriving, CheckedOf, Partner, UnionField, UnionStep } from '@cendra/core';
import { addItem, checkedOf, fieldById, linedUp, partnerInput, removeItem, setItem, typeWord } from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import { Tick } from '../../ui/tick';
import { Conversions } from '../conversions';
import { StatementShown } from '../runnable/statement-shown';
import { FailedRows } from '../failed-rows';
import { PartnerDialog } from '../join/bring-in';
import { mint } from '../mint';
import { ChoiceSlot, TextSlot } from '../slots';
import type { StepEditorProps } from '../step-kind';

/** Rows on top of one another: a ledger of fields, one line each, with what it is in every input. */
export default function UnionEditor(props: StepEditorProps) {
  const union = checkedOf('union', props.checked);
  return union && <Union {...props} union={union} />;
}

type UnionProps = StepEditorProps & { readonly union: CheckedOf<'union'> };

const NULL = 'null';

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
      <div className="mt-2 overflow-x-auto">
        <table className="w-full border-t" aria-label="Stacked fields">
          <thead className="text-left text-meta text-ink-soft">
            <tr className="border-b">
              <th className="py-0.5 font-normal">field</th>
              {rows.map((each, slot) => (
                <th key={slot} className="font-normal">
                  {each}
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
      </div>
      {!withoutValues && (
        <div className="mt-2 flex flex-wrap gap-2">
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

function FieldLine({ bench, union, field }: Pick<UnionProps, 'bench' | 'union'> & { readonly field: UnionField }) {
  const { edit, withoutValues } = bench;
  const { step, arriving, problems, checked } = union;
  const found = problems.filter((each) => each.place.field === field.id);
  const change = (to: UnionField) => edit(setItem(step, 'fields', field, to));
  const type = checked.columns.find((each) => each.field.id === field.id)?.type;
  return (
    <>
      <tr className={found.length > 0 ? '' : 'border-b'}>
        <td className="py-0.5">
          <TextSlot
            label={`Name of ${field.name}`}
            value={field.name}
            placeholder="name"
            disabled={withoutValues}
            wrong={found.some(({ code }) => code.startsWith('name'))}
            onKeep={(to) => edit({ kind: 'rename field', step: step.id, field: field.id, from: field.name, to: to.trim() })}
          />
        </td>
        {arriving.map(({ schema }, slot) => {
          const id = field.from[slot] ?? null;
          const own = id === null ? undefined : fieldById(schema, id);
          return (
            <td key={slot}>
              <ChoiceSlot
                label={`${field.name} in input ${slot + 1}`}
                value={own?.name ?? NULL}
                choices={[NULL, ...schema.fields.map((each) => each.name)]}
                wrong={id !== null && !own}
                disabled={withoutValues}
                onChange={(name) => {
                  const to = schema.fields.find((each) => each.name === name)?.id ?? null;
                  change({ ...field, from: arriving.map((_each, at) => (at === slot ? to : (field.from[at] ?? null))) });
                }}
              />
              {own && <span className="ml-1 text-meta text-ink-faint">{typeWord(own.type)}</span>}
              {id === null && (
                <TextSlot
                  label={`What ${field.name} is in input ${slot + 1}`}
                  value={field.fill?.[slot] ?? ''}
                  placeholder="or a value"
                  wrong={found.some(({ code }) => code === 'value-wrong-type')}
                  disabled={withoutValues}
                  onKeep={(typed) => {
                    const fill = arriving.map((_each, at) => (at === slot ? typed || null : (field.fill?.[at] ?? null)));
                    const { fill: _old, ...rest } = field;
                    change(fill.some((each) => each !== null) ? { ...rest, fill } : rest);
                  }}
                />
              )}
            </td>
          );
        })}
        <td className="text-meta text-ink-soft">
          {type && typeWord(type)}
          {field.as && !withoutValues && (
            <Button small kind="quiet" onClick={() => change({ ...field, as: null })}>
              {`not as ${typeWord(field.as)}`}
            </Button>
          )}
        </td>
        <td>
          {!withoutValues && (
            <button
              type="button"
              aria-label={`Do not stack ${field.name}`}
              onClick={() => edit(removeItem(step, 'fields', field))}
              className="p-1 text-ink-faint hover:text-ink"
            >
              <X size={16} strokeWidth={1.75} aria-hidden />
            </button>
          )}
        </td>
      </tr>
      {found.length > 0 && (
        <tr className="border-b">
          <td colSpan={arriving.length + 3}>
            {found.map((problem, index) => (
              <div key={index} role="alert" className="flex flex-wrap items-center gap-2">
                <ProblemLine problem={problem} />
                {problem.code === 'union-types' && (
                  <Conversions bench={bench} step={step.id} field={field.id} onTake={(as) => change({ ...field, as })} />
                )}
              </div>
            ))}
          </td>
        </tr>
      )}
    </>
  );
}

function SourceLine({ bench, union, source }: Pick<UnionProps, 'bench' | 'union'> & { readonly source: NonNullable<UnionStep['source']> }) {
  const { edit, withoutValues } = bench;
  const { step, arriving } = union;
  return (
    <tr className="border-b">
      <td className="py-0.5">
        <TextSlot
          label="Name of the field that says where rows came from"
          value={source.name}
          placeholder="name"
          disabled={withoutValues}
          onKeep={(to) => edit({ kind: 'rename field', step: step.id, field: source.id, from: source.name, to: to.trim() })}
        />
      </td>
      {arriving.map((_each, slot) => (
        <td key={slot}>
          <TextSlot
            label={`What input ${slot + 1} is called`}
            value={source.words[slot] ?? ''}
            placeholder="words"
            disabled={withoutValues}
            onKeep={(word) => {
              const words = arriving.map((_other, at) => (at === slot ? word : (source.words[at] ?? '')));
              edit({ kind: 'set step', step: step.id, property: 'source', from: source, to: { ...source, words } });
            }}
          />
        </td>
      ))}
      <td className="text-meta text-ink-soft">text</td>
      <td />
    </tr>
  );
}

/** Stacks one more step or table, its fields lined up by name. */
function OneMore({ bench, union, onDone }: Pick<UnionProps, 'bench' | 'union'> & { readonly onDone: () => void }) {
  const { step, arriving } = union;
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
        to: withInput(step, arriving, next),
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

/** The fields with those of one more input: beside what is called alike, or behind the others. */
function withInput(step: UnionStep, arriving: readonly Arriving[], next: Arriving): readonly UnionField[] {
  const slot = arriving.length;
  const fresh = linedUp(mint, [next]);
  const free = new Map(fresh.map((each) => [each.name.toLowerCase(), each.from[0] ?? null]));
  const known = step.fields.map((field) => {
    const found = free.get(field.name.toLowerCase()) ?? null;
    if (found !== null) free.delete(field.name.toLowerCase());
    return { ...field, from: [...arriving.map((_each, at) => field.from[at] ?? null), found] };
  });
  const added = fresh.flatMap((each) => {
    const id = free.get(each.name.toLowerCase());
    return id === undefined || id === null
      ? []
      : [{ ...each, from: Array.from({ length: slot + 1 }, (_each, at) => (at === slot ? id : null)) }];
  });
  return [...known, ...added];
}

function freeName({ fields }: UnionStep): string {
  const names = new Set(fields.map((each) => each.name));
  for (let number = fields.length + 1; ; number++) if (!names.has(`field_${number}`)) return `field_${number}`;
}
