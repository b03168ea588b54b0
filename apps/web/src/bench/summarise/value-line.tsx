import { useState } from 'react';
import type { Field, FieldType, SummaryAggregate, SummaryValue } from '@cendra/core';
import { freeName, isNumber, linkReferences, SUMMARY_AGGREGATES } from '@cendra/core';
import { Button } from '../../ui/button';
import { ExpressionSlot, plainField } from '../expression-slot';
import { ChoiceSlot, TextSlot } from '../slots';
import type { LineProps } from './line';
import { LineEnd, LineProblems } from './line';

const NOTHING: SummaryValue['order'] = { text: '', refs: [] };

/** What is offered first: no sum of what is no measure, and none by itself. */
function offeredFor(type: FieldType | undefined, role: Field['role'] | undefined): readonly SummaryAggregate[] {
  if (!type) return SUMMARY_AGGREGATES;
  const sums = isNumber(type) && role !== 'key' && role !== 'code';
  return SUMMARY_AGGREGATES.filter((each) => {
    if (each === 'sum' || each === 'average' || each === 'median') return sums;
    if (each === 'share') return false;
    return type.kind !== 'json' || each === 'rows' || each === 'count';
  });
}

/** A figure of each group. */
export function ValueLine({ bench, item, number, schema, names, problems, fresh, onChange, onRename, onRemove }: LineProps<SummaryValue>) {
  const { parameters } = bench.trail.definition;
  const [among, setAmong] = useState(item.among.text !== '');
  const field = plainField(item.expression, schema);
  const link = (text: string) => linkReferences(text, { schema, parameters });
  const aggregates = field ? [...offeredFor(field.type, field.role), 'share' as const] : SUMMARY_AGGREGATES;
  const ordered = item.aggregate === 'first' || item.aggregate === 'last';
  const made = defaultName(item, field?.name);
  const change = (to: Partial<SummaryValue>) => {
    const next = { ...item, ...to };
    const now = defaultName(next, plainField(next.expression, schema)?.name);
    // A name nobody gave follows what is told.
    onChange(
      item.name === made || /^(rows|figure)(_\d+)?$/.test(item.name)
        ? { ...next, name: freeName(now, new Set([...names].filter((each) => each !== item.name))) }
        : next,
    );
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="figures w-6 text-right text-ink-soft">{number}</span>
        <ChoiceSlot
          label={`Figure ${number}`}
          value={item.aggregate}
          choices={aggregates}
          disabled={bench.withoutValues}
          onChange={(aggregate) => change({ aggregate, ...(aggregate === 'rows' ? { expression: NOTHING, order: NOTHING } : {}) })}
        />
        {item.aggregate !== 'rows' && (item.aggregate === 'share' ? 'of rows with' : 'of')}
        {item.aggregate !== 'rows' && (
          <ExpressionSlot
            bench={bench}
            label={`Of what figure ${number} is`}
            value={item.expression}
            schema={schema}
            autoFocus={fresh}
            onKeep={(expression) => change({ expression })}
          />
        )}
        {ordered && (
          <>
            by
            <ExpressionSlot
              bench={bench}
              label={`By what figure ${number} is told`}
              value={item.order}
              schema={schema}
              onKeep={(order) => change({ order })}
            />
          </>
        )}
        {among ? (
          <>
            among the rows where
            <TextSlot
              label={`Among which rows figure ${number} is told`}
              value={item.among.text}
              placeholder="a condition, such as grade = 'A'"
              look="font-mono"
              disabled={bench.withoutValues}
              autoFocus={item.among.text === ''}
              onKeep={(text) => {
                if (text.trim() === '') setAmong(false);
                change({ among: link(text) });
              }}
            />
          </>
        ) : (
          !bench.withoutValues && (
            <Button small kind="quiet" onClick={() => setAmong(true)}>
              among the rows where …
            </Button>
          )
        )}
        <LineEnd bench={bench} item={item} called={`figure ${number}`} problems={problems} onRename={onRename} onRemove={onRemove} />
      </div>
      <LineProblems problems={problems} />
    </>
  );
}

const WORDS: Readonly<Record<SummaryAggregate, string>> = {
  rows: 'rows',
  count: 'count_of',
  'distinct count': 'different',
  sum: '',
  average: 'average',
  least: 'least',
  greatest: 'greatest',
  median: 'median',
  first: 'first',
  last: 'last',
  share: 'share_of',
};

/** A sum keeps its field's name; other figures say what they are. */
function defaultName({ aggregate }: Pick<SummaryValue, 'aggregate'>, field: string | undefined): string {
  if (aggregate === 'rows') return 'rows';
  const word = WORDS[aggregate];
  if (field === undefined) return word === '' ? 'figure' : word;
  return word === '' ? field : `${word}_${field}`;
}
