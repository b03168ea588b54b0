import { X } from 'lucide-react';
import type { CheckedOf, UnionField, UnionStep } from '@cendra/core';
import { fieldById, lineWithEdits, removeItem, setItem, typeWord } from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import { Conversions } from '../conversions';
import { ChoiceSlot, TextSlot } from '../slots';
import type { Bench } from '../use-bench';
import { LinedCell } from './lined-cells';

export interface OfUnion {
  readonly bench: Bench;
  readonly union: CheckedOf<'union'>;
}

const NULL = 'null';

/** One field of the union: its name, what it is in each input, and what is wrong with it beneath. */
export function FieldLine({ bench, union, field }: OfUnion & { readonly field: UnionField }) {
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
            <LinedCell key={slot} field={field} slot={slot} named={own?.name} movable={!withoutValues}>
              <ChoiceSlot
                label={`${field.name} in input ${slot + 1}`}
                value={own?.name ?? NULL}
                choices={[NULL, ...schema.fields.map((each) => each.name)]}
                wrong={id !== null && !own}
                disabled={withoutValues}
                onChange={(name) => {
                  const to = schema.fields.find((each) => each.name === name)?.id ?? null;
                  edit(...lineWithEdits(bench.trail.definition, step, slot, field.id, to));
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
            </LinedCell>
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

/** The field that says which input a row came from, with a word for each. */
export function SourceLine({ bench, union, source }: OfUnion & { readonly source: NonNullable<UnionStep['source']> }) {
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
