import { useState } from 'react';
import type { Choices, Field, Narrowing, Parameter, Schema } from '@cendra/core';
import { CHOICES_SORTED, familyOf, fieldById, narrowingFor, parameterType } from '@cendra/core';
import { FieldSlot } from '../field-slot';
import { ChoiceSlot } from '../slots';
import type { Bench } from '../use-bench';

export interface ChoicesLinesProps {
  readonly bench: Bench;
  readonly parameter: Parameter;
  readonly onSet: (choices: Choices | undefined) => void;
}

export type Looked = Exclude<Choices, { from: 'typed' }>;

interface LookedUpProps extends ChoicesLinesProps {
  readonly choices: Looked;
  readonly schema: Schema;
}

/** Field, label, order and narrowing of choices that are looked up, as a sentence with slots. */
export function LookedUp({ bench, parameter, choices, schema, onSet }: LookedUpProps) {
  const disabled = bench.withoutValues;
  const family = familyOf(parameterType(parameter));
  const suited: Schema = { fields: schema.fields.filter((each) => familyOf(each.type) === family) };
  const set = (change: Partial<Looked>) => onSet({ ...choices, ...change } as Looked);
  const field = fieldById(schema, choices.field);
  const label = choices.label === null ? undefined : fieldById(schema, choices.label);
  const others = bench.trail.definition.parameters.filter((each) => each.id !== parameter.id);
  const [blankPair, setBlankPair] = useState(false);
  return (
    <span className="mt-1 flex flex-wrap items-center gap-1">
      <FieldSlot
        label="Field the choices come from"
        schema={suited}
        field={field}
        missing={choices.field !== '' && !field}
        disabled={disabled}
        onField={(next: Field) => set({ field: next.id })}
      />
      shown as
      <FieldSlot
        label="Field that labels the choices"
        schema={schema}
        field={label ?? field}
        missing={false}
        disabled={disabled}
        onField={(next: Field) => set({ label: next.id === choices.field ? null : next.id })}
      />
      sorted
      <ChoiceSlot
        label="How choices are sorted"
        value={choices.sorted}
        choices={CHOICES_SORTED}
        disabled={disabled}
        onChange={(sorted) => set({ sorted })}
      />
      {choices.narrowedBy.map((each, at) => (
        <span key={at} className="flex flex-wrap items-center gap-1">
          narrowed by{' '}
          <ChoiceSlot
            label="Parameter that narrows"
            value={others.find(({ id }) => id === each.parameter)?.name ?? ''}
            choices={['nothing', ...others.map(({ name }) => name)]}
            disabled={disabled}
            onChange={(name) => {
              const by = others.find((other) => other.name === name);
              const kept = choices.narrowedBy.toSpliced(at, 1, ...(by ? [{ ...each, parameter: by.id }] : []));
              set({ narrowedBy: kept });
            }}
          />
          in
          <FieldSlot
            label="Field it is narrowed in"
            schema={schema}
            field={fieldById(schema, each.field)}
            missing={!fieldById(schema, each.field)}
            disabled={disabled}
            onField={(next: Field) => set({ narrowedBy: choices.narrowedBy.toSpliced(at, 1, { ...each, field: next.id }) })}
          />
        </span>
      ))}
      {blankPair && (
        <BlankPair
          schema={schema}
          others={others}
          onChoose={(narrowing) => {
            setBlankPair(false);
            set({ narrowedBy: [...choices.narrowedBy, narrowing] });
          }}
        />
      )}
      {!disabled && !blankPair && others.length > 0 && choices.field !== '' && (
        <button
          type="button"
          className="text-meta text-ink-soft underline underline-offset-2"
          onClick={() => {
            const suited = narrowingFor(bench.trail, parameter, choices, bench.catalogue);
            if (suited) set({ narrowedBy: [...choices.narrowedBy, suited] });
            else setBlankPair(true);
          }}
        >
          narrow by another parameter
        </button>
      )}
    </span>
  );
}

interface BlankPairProps {
  readonly schema: Schema;
  readonly others: readonly Parameter[];
  readonly onChoose: (narrowing: Narrowing) => void;
}

/** A narrowing nothing could be proposed for: kept once both its sides are chosen. */
function BlankPair({ schema, others, onChoose }: BlankPairProps) {
  const [by, setBy] = useState<Parameter>();
  const fields = by ? schema.fields.filter((each) => familyOf(each.type) === familyOf(parameterType(by))) : schema.fields;
  return (
    <span className="flex flex-wrap items-center gap-1">
      narrowed by{' '}
      <ChoiceSlot
        label="Parameter that narrows"
        value={by?.name ?? ''}
        choices={others.map(({ name }) => name)}
        onChange={(name) => setBy(others.find((each) => each.name === name))}
      />
      in
      <FieldSlot
        label="Field it is narrowed in"
        schema={{ fields }}
        field={undefined}
        missing={false}
        disabled={!by}
        onField={(next: Field) => by && onChoose({ parameter: by.id, field: next.id })}
      />
      <span className="text-meta text-ink-soft">
        {by && fields.length === 0
          ? `None of these fields has values :${by.name} could have.`
          : 'No other parameter is asked with a field of this table, so say which.'}
      </span>
    </span>
  );
}
