import { useState } from 'react';
import type { Field, FieldType, Schema, SummaryAggregate, SummaryValue } from '@cendra/core';
import { freeName, isNumber, linkReferences, separatorOf, SUMMARY_AGGREGATES } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { ExpressionSlot, plainField } from '../expression-slot';
import { ChoiceSlot, TextSlot } from '../slots';
import type { LineProps } from './line';
import { LineEnd, LineProblems } from './line';
import type { Bench } from '../use-bench';

const NOTHING: SummaryValue['order'] = { text: '', refs: [] };

/** What is offered first: no sum of what is no measure, and none by itself. */
function offeredFor(type: FieldType | undefined, role: Field['role'] | undefined): readonly SummaryAggregate[] {
  if (!type) return SUMMARY_AGGREGATES;
  const sums = isNumber(type) && (role === undefined || role === 'measure');
  return SUMMARY_AGGREGATES.filter((each) => {
    if (each === 'sum' || each === 'average' || each === 'median') return sums;
    if (each === 'share') return false;
    if (each === 'joined') return type.kind === 'text';
    return type.kind !== 'json' || each === 'rows' || each === 'count';
  });
}

/** The fields that are offered for a figure; any other can be written. */
const offeredTo = (aggregate: SummaryAggregate, { fields }: Schema): Schema => ({
  fields: fields.filter(({ type, role }) => (aggregate === 'share' ? type.kind === 'yesno' : offeredFor(type, role).includes(aggregate))),
});

/** A figure of each group. */
export function ValueLine({
  bench,
  step,
  item,
  number,
  schema,
  names,
  problems,
  fresh,
  onChange,
  onRename,
  onRemove,
}: LineProps<SummaryValue> & { readonly step: string }) {
  const { parameters } = bench.trail.definition;
  const [among, setAmong] = useState(item.among.text !== '');
  const field = plainField(item.expression, schema);
  const link = (text: string) => linkReferences(text, { schema, parameters });
  const aggregates = field ? [...offeredFor(field.type, field.role), 'share' as const] : SUMMARY_AGGREGATES;
  const placed = item.aggregate === 'first' || item.aggregate === 'last';
  const joined = item.aggregate === 'joined';
  const counts = COUNTING.includes(item.aggregate);
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
          onChange={(aggregate) => change({ aggregate, ...(aggregate === 'rows' ? { order: NOTHING } : {}) })}
        />
        {item.aggregate !== 'rows' && (item.aggregate === 'share' ? 'of rows with' : 'of')}
        {item.aggregate !== 'rows' && (
          <ExpressionSlot
            bench={bench}
            label={`Of what figure ${number} is`}
            value={item.expression}
            schema={schema}
            offered={offeredTo(item.aggregate, schema)}
            autoFocus={fresh}
            onKeep={(expression) => change({ expression })}
          />
        )}
        {joined && (
          <>
            with
            <TextSlot
              label={`What stands between the texts of figure ${number}`}
              value={separatorOf(item)}
              placeholder="nothing"
              disabled={bench.withoutValues}
              onKeep={(separator) => change({ separator })}
            />
            between,
          </>
        )}
        {(placed || joined) && (
          <>
            {joined ? 'in the order of' : 'by'}
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
      {counts && <ThreeCounts bench={bench} step={step} item={item} />}
      <LineProblems problems={problems} />
    </>
  );
}

const COUNTING: readonly SummaryAggregate[] = ['rows', 'count', 'distinct count'];

/** Counting means one of three; where one is chosen, all of them stand with their figures. */
function ThreeCounts({ bench, step, item }: { readonly bench: Bench; readonly step: string; readonly item: SummaryValue }) {
  const of = item.expression.text.trim() === '' ? undefined : item.expression;
  const question = of && !bench.withoutValues ? { kind: 'counting' as const, step, of: item.expression, among: item.among } : undefined;
  const { answer } = useAnswer(bench, question, 300);
  if (!answer) return null;
  return (
    <p className="figures pl-8 text-meta text-ink-soft">
      {grouped(answer.rows)} rows, {grouped(answer.filled)} with a value, {grouped(answer.different)} different values
    </p>
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
  joined: 'joined',
  share: 'share_of',
};

/** A sum keeps its field's name; other figures say what they are. */
function defaultName({ aggregate }: Pick<SummaryValue, 'aggregate'>, field: string | undefined): string {
  if (aggregate === 'rows') return 'rows';
  const word = WORDS[aggregate];
  if (field === undefined) return word === '' ? 'figure' : word;
  return word === '' ? field : `${word}_${field}`;
}
