import { useState } from 'react';
import type { Choices, Schema } from '@cendra/core';
import { checkTrail, fieldAskedWith, readDefinition, readsSource, resultStep } from '@cendra/core';
import { api } from '../../api';
import { ChoiceSlot } from '../slots';
import type { Bench } from '../use-bench';
import { FromTable } from './choices-of-table';
import { Line } from './line';
import type { ChoicesLinesProps, Looked } from './looked-up';
import { LookedUp } from './looked-up';

const FROM = ['none', 'typed', 'a field', 'a table', 'a dataset'] as const;
const WORD: Readonly<Record<Choices['from'], (typeof FROM)[number]>> = {
  typed: 'typed',
  field: 'a field',
  table: 'a table',
  dataset: 'a dataset',
};

/** What is offered for a parameter: typed values, those of a field, or those of a dataset; and what narrows them. */
export function ChoicesLines({ bench, parameter, onSet }: ChoicesLinesProps) {
  const { choices } = parameter;
  const disabled = bench.withoutValues;
  // A table is kept once it is said which.
  const [which, setWhich] = useState(false);
  const begin = (from: (typeof FROM)[number]) => {
    const field = from === 'a field' ? (fieldAskedWith(bench.trail, parameter.id) ?? '') : '';
    const looked = { field, label: null, sorted: 'by value' as const, narrowedBy: [] };
    setWhich(from === 'a table');
    if (from === 'a table') return undefined;
    if (from === 'none') return onSet(undefined);
    if (from === 'typed') return onSet({ from: 'typed', items: [] });
    return onSet(from === 'a field' ? { from: 'field', ...looked } : { from: 'dataset', dataset: bench.id, ...looked });
  };
  return (
    <>
      <Line label="choices">
        <ChoiceSlot
          label="Where choices come from"
          value={which ? 'a table' : choices ? WORD[choices.from] : 'none'}
          choices={FROM}
          disabled={disabled}
          onChange={begin}
        />
        {(which || choices?.from === 'table') && (
          <FromTable
            {...{ bench, parameter }}
            choices={choices?.from === 'table' ? choices : undefined}
            onSet={(next) => (setWhich(false), onSet(next))}
          />
        )}
        {!which && choices?.from === 'field' && <LookedUp {...{ bench, parameter, onSet, choices }} schema={tableSchema(bench)} />}
        {!which && choices?.from === 'dataset' && <FromDataset {...{ bench, parameter, onSet, choices }} />}
      </Line>
      {!which && choices?.from === 'typed' && <TypedChoices choices={choices} disabled={disabled} onSet={onSet} />}
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
