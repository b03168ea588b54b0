import { useState } from 'react';
import type { Choices, Field, Narrowing, Parameter, Schema } from '@cendra/core';
import {
  checkTrail,
  CHOICES_SORTED,
  familyOf,
  fieldAskedWith,
  fieldById,
  narrowingFor,
  parameterType,
  readDefinition,
  readsSource,
  resultStep,
} from '@cendra/core';
import { api } from '../../api';
import { ChoiceSlot, FieldSlot } from '../slots';
import type { Bench } from '../use-bench';
import { Line } from './line';

interface ChoicesLinesProps {
  readonly bench: Bench;
  readonly parameter: Parameter;
  readonly onSet: (choices: Choices | undefined) => void;
}

const FROM = ['none', 'typed', 'a field', 'a dataset'] as const;
const WORD: Readonly<Record<Choices['from'], (typeof FROM)[number]>> = { typed: 'typed', field: 'a field', dataset: 'a dataset' };

/** What is offered for a parameter: typed values, those of a field, or those of a dataset; and what narrows them. */
export function ChoicesLines({ bench, parameter, onSet }: ChoicesLinesProps) {
  const { choices } = parameter;
  const disabled = bench.withoutValues;
  const begin = (from: (typeof FROM)[number]) => {
    const field = from === 'a field' ? (fieldAskedWith(bench.trail, parameter.id) ?? '') : '';
    const looked = { field, label: null, sorted: 'by value' as const, narrowedBy: [] };
    if (from === 'none') return onSet(undefined);
    if (from === 'typed') return onSet({ from: 'typed', items: [] });
    return onSet(from === 'a field' ? { from: 'field', ...looked } : { from: 'dataset', dataset: bench.id, ...looked });
  };
  return (
    <>
      <Line label="choices">
        <ChoiceSlot
          label="Where choices come from"
          value={choices ? WORD[choices.from] : 'none'}
          choices={FROM}
          disabled={disabled}
          onChange={begin}
        />
        {choices?.from === 'field' && <LookedUp {...{ bench, parameter, onSet, choices }} schema={tableSchema(bench)} />}
        {choices?.from === 'dataset' && <FromDataset {...{ bench, parameter, onSet, choices }} />}
      </Line>
      {choices?.from === 'typed' && <TypedChoices choices={choices} disabled={disabled} onSet={onSet} />}
    </>
  );
}

/** Choices of this dataset come from its sources as they are. */
function tableSchema({ trail }: Bench): Schema {
  return { fields: trail.steps.flatMap(({ step, schema }) => (readsSource(step) ? schema.fields : [])) };
}

/** One choice a line: the value, and behind `=` what is shown for it. */
function TypedChoices({
  choices,
  disabled,
  onSet,
}: {
  readonly choices: Choices & { from: 'typed' };
  readonly disabled: boolean;
  readonly onSet: ChoicesLinesProps['onSet'];
}) {
  const [typed, setTyped] = useState<string>();
  const written = choices.items.map(({ value, label }) => (label === '' ? value : `${value} = ${label}`)).join('\n');
  const keep = () => {
    if (typed === undefined || typed === written) return;
    const items = typed.split('\n').flatMap((line) => {
      const [value = '', ...label] = line.split('=');
      return value.trim() === '' ? [] : [{ value: value.trim(), label: label.join('=').trim() }];
    });
    onSet({ from: 'typed', items });
    setTyped(undefined);
  };
  return (
    <textarea
      aria-label="Choices, one a line, as value = label"
      rows={Math.min(8, Math.max(3, choices.items.length + 1))}
      value={typed ?? written}
      placeholder="A = first grade"
      readOnly={disabled}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      className="w-full rounded border bg-paper px-2 py-1"
    />
  );
}

type Looked = Exclude<Choices, { from: 'typed' }>;

interface LookedUpProps extends ChoicesLinesProps {
  readonly choices: Looked;
  readonly schema: Schema;
}

/** Field, label, order and narrowing of choices that are looked up, as a sentence with slots. */
function LookedUp({ bench, parameter, choices, schema, onSet }: LookedUpProps) {
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

function FromDataset(props: ChoicesLinesProps & { readonly choices: Looked & { from: 'dataset' } }) {
  const { bench, choices, onSet } = props;
  const datasets = api.useDatasetsListQuery().data ?? [];
  const other = api.useDatasetsOneQuery({ id: choices.dataset });
  const read = other.data?.definition ? readDefinition(other.data.definition) : undefined;
  const schema = read && 'definition' in read ? resultStep(checkTrail(read.definition))?.schema : undefined;
  const title = datasets.find((each) => each.id === choices.dataset)?.title ?? '';
  return (
    <>
      {' '}
      <ChoiceSlot
        label="Dataset the choices come from"
        value={title}
        choices={datasets.map((each) => each.title)}
        disabled={bench.withoutValues}
        onChange={(next) => {
          const found = datasets.find((each) => each.title === next);
          if (found) onSet({ ...choices, dataset: found.id, field: '', label: null, narrowedBy: [] });
        }}
      />
      {schema && <LookedUp {...props} schema={{ fields: schema.fields.filter((each) => !each.forUseOnly) }} />}
    </>
  );
}
